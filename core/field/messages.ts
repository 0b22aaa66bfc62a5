import { z } from "zod";

/** What a field gateway says over MQTT, and what it hears (docs/field-gateway.md). Version 1; changed only by adding. */
export const PROTOCOL = "presa/1";
export const topicOf = (site: string, what: "state" | "data" | "ask" | "site" | "play"): string =>
  `${PROTOCOL}/${site}/${what}`;

const seq = z.int().min(1);
const stream = z.string().min(1).max(64);
const at = z.iso.datetime({ offset: true });
const ids = z.array(z.string().max(64)).max(2000);
const figure = z.number().min(0).max(10_000_000).nullable();

/** One instant of a site: what every sensor reads, and what stands open. */
export const readingMessage = z.object({
  stream,
  seq,
  at,
  kind: z.literal("reading"),
  /** L/min by flow sensor; null: it gave no value. */
  flow: z.record(z.string().max(64), figure),
  /** kPa by pressure sensor. */
  pressure: z.record(z.string().max(64), figure).default({}),
  /** Stations open, master valves open and pumps running in the second that ended at `at`. */
  open: ids.default([]),
  valves: ids.default([]),
  pumps: ids.default([]),
});
export const eventMessage = z.object({
  stream,
  seq,
  at,
  kind: z.literal("event"),
  type: z.string().min(1).max(40),
  subject: z.string().max(64),
  reason: z.string().max(500).default(""),
  /** Of type "alarm" only. */
  alarm: z
    .object({
      kind: z.string().max(40),
      note: z.string().max(40).optional(),
      measuredLpm: z.number().min(0),
      expectedLpm: z.number().min(0),
      kPa: z.object({ measured: z.number(), limit: z.number() }).optional(),
    })
    .optional(),
});
/** Numbers that were asked for and are no longer kept. */
export const lostMessage = z.object({ stream, kind: z.literal("lost"), from: seq, to: seq });
export const dataMessage = z.discriminatedUnion("kind", [readingMessage, eventMessage, lostMessage]);
export type ReadingMessage = z.infer<typeof readingMessage>;
export type EventMessage = z.infer<typeof eventMessage>;
export type DataMessage = z.infer<typeof dataMessage>;

/** Retained: which stream is spoken, from which number to which it is kept, and whether anyone is there. */
export const stateMessage = z.object({
  stream,
  first: seq,
  last: z.int().min(0),
  online: z.boolean(),
  /** Played by a simulated site. */
  simulated: z.boolean().default(false),
  /** The controller itself finds and isolates; what it finds comes as events. */
  isolates: z.boolean().default(false),
  /** How many seconds of the site pass in one. */
  pace: z.number().min(0).default(1),
  faults: z.array(z.unknown()).max(1000).default([]),
});
export type StateMessage = z.infer<typeof stateMessage>;

/** Asks for numbers again, both ends included. */
export const askMessage = z.object({ stream, from: seq, to: seq });

/** To the simulated gateway only: from when and how fast it plays, and its faults. Without `from` it goes on where it is. */
export const playMessage = z.strictObject({
  from: at.optional(),
  pace: z.number().min(1).max(3600).optional(),
  faults: z.array(z.unknown()).max(1000).optional(),
});
export type PlayMessage = z.infer<typeof playMessage>;

export function readJson<T>(schema: z.ZodType<T>, text: string): T | null {
  try {
    const parsed = schema.safeParse(JSON.parse(text));
    return parsed.success ? parsed.data : null;
  } catch {
    return null;
  }
}
