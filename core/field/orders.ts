import { z } from "zod";
import { dateSchema } from "../dates/date-schema.ts";
import { id as elementId, noNul } from "../site-file/basics-schema.ts";

/**
 * What Presa and a gateway say to each other in the second version of the protocol (docs/field-gateway.md): settings and what became of them, what a controller holds, and
 * orders that are done at most once. Changed only by adding.
 */
export const PROTOCOL_2 = "presa/2";
/** Said by the gateway. */
export const ANSWERS = ["taken", "holds", "done"] as const;
export type Answer = (typeof ANSWERS)[number];
export const orderTopic = (account: string, what: Answer | "settings" | "do"): string =>
  `${PROTOCOL_2}/${account}/${what}`;

/** Settings of the largest controller are a few hundred kB. */
export const MOST_SETTINGS_BYTES = 4_000_000;

const at = z.iso.datetime({ offset: true });
const sum = z.string().regex(/^[0-9a-f]{8}$/, "is no checksum");
/** Numbers of sends of a site rise; 0: none yet. */
const number = z
  .int()
  .min(0)
  .max(2 ** 31);
const words = noNul.max(500);
const ids = z.array(elementId).max(10_000);
const minutes = z.number().gt(0).max(1440);

/** Whole settings of one controller. `settings` is a site file with that controller alone (core/settings/settings-of.ts). */
export const settingsMessage = z.strictObject({
  number: number.min(1),
  controllerId: elementId,
  at,
  checksum: sum,
  settings: z.record(z.string(), z.unknown()),
});

/** What became of settings with that number, item by item. Said again for a number that comes again. */
export const takenMessage = z.object({
  number: number.min(1),
  controllerId: elementId,
  at,
  outcome: z.enum(["taken", "partly", "refused"]),
  reason: words.optional(),
  items: z
    .array(
      z.object({
        path: noNul.max(300),
        what: words,
        outcome: z.enum(["taken", "changed", "refused"]),
        value: noNul.max(2000),
        reason: words.optional(),
      }),
    )
    .max(20_000)
    .default([]),
});
export type TakenMessage = z.infer<typeof takenMessage>;

/** What a controller holds now. Said when it is asked (`read`) and whenever it changes. */
export const holdsMessage = z.object({
  controllerId: elementId,
  at,
  /** Of the last send that it took. */
  number,
  checksum: sum,
  settings: z.record(z.string(), z.unknown()),
  /** When somebody last changed it at the controller itself. */
  byHandAt: at.nullable().default(null),
  /** How far its clock is ahead, s; behind where it is below 0. */
  clockOffS: z.number().min(-31_622_400).max(31_622_400).default(0),
  lockouts: ids.default([]),
});
export type HoldsMessage = z.infer<typeof holdsMessage>;

/** What can be asked of the controllers of a site. */
export const orderSchema = z.discriminatedUnion("kind", [
  /** Single stations, one after the other or together as far as the ceiling lets them; they ignore weather inputs. */
  z.strictObject({
    kind: z.literal("run"),
    runs: z
      .array(z.strictObject({ stationId: elementId, minutes }))
      .min(1)
      .max(200),
  }),
  /** A program, from a station on, with other minutes for this once. */
  z.strictObject({
    kind: z.literal("program"),
    programId: elementId,
    fromStationId: elementId.optional(),
    minutes: minutes.optional(),
  }),
  /** What runs now ends; what comes next begins. */
  z.strictObject({ kind: z.literal("skip") }),
  /** Every station of a controller in turn. */
  z.strictObject({ kind: z.literal("walk"), controllerId: elementId, minutes: z.number().min(1).max(15) }),
  z.strictObject({ kind: z.literal("stop") }),
  /** Nothing runs until that date, or with no end. */
  z.strictObject({ kind: z.literal("off"), until: z.union([z.literal("indefinite"), dateSchema]) }),
  z.strictObject({ kind: z.literal("resume") }),
  /** A master valve opens for hand watering. */
  z.strictObject({
    kind: z.literal("hand"),
    pocId: elementId,
    minutes,
    flowLpm: z.number().gt(0).max(1_000_000),
  }),
  /** Learning, at once or from an instant on. */
  z.strictObject({
    kind: z.literal("learn"),
    stationIds: z.array(elementId).min(1).max(10_000),
    from: at.optional(),
    /** No station is begun that could outlast it. */
    to: at.optional(),
  }),
  /** Frees what is locked out. */
  z.strictObject({ kind: z.literal("clear"), ids: z.array(elementId).min(1).max(1000) }),
  z.strictObject({ kind: z.literal("lock"), ids: z.array(elementId).min(1).max(1000) }),
  /** Every station of a controller in turn by wire, mA. */
  z.strictObject({ kind: z.literal("check"), controllerId: elementId }),
  /** Says what every controller holds. */
  z.strictObject({ kind: z.literal("read") }),
  /** Sets the controllers' clocks right. */
  z.strictObject({ kind: z.literal("clock") }),
]);
export type Order = z.infer<typeof orderSchema>;
export type OrderKind = Order["kind"];

/** These open valves: they are refused by controllers that hold other settings than Presa knows of. */
export const OPENING: ReadonlySet<OrderKind> = new Set(["run", "program", "walk", "hand", "learn"]);

/** An order. `id` is done at most once; after `expires` it is not done. */
export const doMessage = z.strictObject({
  id: z.uuid(),
  at,
  expires: at,
  by: noNul.max(200),
  /** Checksums of what the controllers hold as far as Presa knows, by controller; with orders that open valves. */
  knows: z.record(elementId, sum).optional(),
  what: orderSchema,
});
export type DoMessage = z.infer<typeof doMessage>;

export const DONE_OUTCOMES = ["done", "refused", "expired"] as const;
/** What became of an order: said again for an id that comes again. */
export const doneMessage = z.object({
  id: z.uuid(),
  at,
  outcome: z.enum(DONE_OUTCOMES),
  reason: words.optional(),
  /** Of a valve check: mA by station. */
  milliamps: z.record(elementId, z.number().min(0).max(100_000)).optional(),
});
export type DoneMessage = z.infer<typeof doneMessage>;
