import { z } from "zod";
import { id as elementId, MOST_ID, noNul } from "../site-file/basics-schema.ts";

/** What a field gateway says over MQTT, and what it hears (docs/field-gateway.md). Version 1; changed only by adding. */
export const PROTOCOL = "presa/1";
export const topicOf = (site: string, what: "state" | "data" | "ask" | "site" | "play"): string =>
  `${PROTOCOL}/${site}/${what}`;

/** No stream comes so far: ten thousand years of seconds. */
const seq = z.int().min(1).max(3e11);
const stream = noNul.min(1).max(64);
const at = z.iso.datetime({ offset: true });
const ids = z.array(elementId).max(2000);
/** More sensors than a site has; more are no reading. */
const MOST_SENSORS = 200;
const figures = (figure: z.ZodType<number | null>) =>
  z.record(elementId, figure).refine((of) => Object.keys(of).length <= MOST_SENSORS, "has too many sensors");
const figure = z.number().min(0).max(10_000_000).nullable();

/** One instant of a site: what every sensor reads, and what stands open. */
export const readingMessage = z.object({
  stream,
  seq,
  at,
  kind: z.literal("reading"),
  /** L/min by flow sensor; null: it gave no value. */
  flow: figures(figure),
  /** kPa by pressure sensor. */
  pressure: figures(figure).default({}),
  /** Stations open, master valves open and pumps running in the second that ended at `at`. */
  open: ids.default([]),
  valves: ids.default([]),
  pumps: ids.default([]),
  /** Seconds that open stations have left, and stations that come next, in order. */
  left: z.record(elementId, z.number().min(0).max(1e6)).optional(),
  next: z.array(elementId).max(20).optional(),
});
export const eventMessage = z.object({
  stream,
  seq,
  at,
  kind: z.literal("event"),
  type: noNul.min(1).max(40),
  subject: noNul.max(MOST_ID),
  reason: noNul.max(500).default(""),
  /** The order it came of. */
  order: z.uuid().optional(),
  /** Of type "learned" only: a station's flow as the controller read it. */
  learned: z
    .object({
      verdict: z.enum(["accepted", "unsteady", "noFlow", "overCeiling", "stopped"]),
      meanLpm: figure.unwrap(),
      sdLpm: figure.unwrap(),
      samples: z.int().min(0).max(1e6),
      secondsToSteady: z.number().min(0).max(1e6).nullable(),
      companionIds: z.array(elementId).max(100).optional(),
    })
    .optional(),
  /** Of type "learnRests" only: the flow with everything closed. */
  rest: z
    .object({
      pocIds: ids,
      mainlineIds: ids,
      measuredLpm: z.number().min(0),
      limitLpm: z.number().min(0),
      flowing: z.boolean(),
      blind: z.boolean().optional(),
    })
    .optional(),
  /** Of type "learnEnds" only: what learning let through. */
  litres: z.number().min(0).optional(),
  /** Of type "alarm" only. */
  alarm: z
    .object({
      kind: noNul.max(40),
      note: noNul.max(40).optional(),
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
  last: z.int().min(0).max(3e11),
  online: z.boolean(),
  /** Played by a simulated site. */
  simulated: z.boolean().default(false),
  /** The controller itself finds and isolates; what it finds comes as events. */
  isolates: z.boolean().default(false),
  /** 2: takes settings and orders too. */
  version: z.int().min(1).max(1000).default(1),
  /** Messages that were not taken, by why. */
  refused: z.record(noNul.max(40), z.int().min(0)).default({}),
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

/** What all flow sensors of a reading say together, L/min; one without a value adds nothing. */
export const totalLpm = (flow: Readonly<Record<string, number | null>>): number =>
  Object.values(flow).reduce((sum: number, lpm) => sum + (lpm ?? 0), 0);
