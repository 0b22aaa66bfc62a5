import { z } from "zod";
import { outputSchema } from "../core/site-file/devices-schema.ts";
import { meterEntry } from "./meters.ts";
import { visitEntry } from "./visits.ts";
import { walkBegun, walkLook } from "./walks.ts";

const elementId = z.string().min(1).max(80);
const words = z.string().trim().min(1).max(4000);
const cause = z.string().trim().min(3, "A cause of at least three letters is needed.").max(1000);
const positive = z.number().gt(0).max(1e12);

/** One run against the water meter, as noted (handbook#4-sensors): volumes in L, time in s. */
export const provingRow = z.strictObject({
  startL: z.number().min(0).max(1e12),
  endL: positive,
  seconds: z.number().gt(0).max(86_400),
  hz: z.number().gt(0).max(10_000).optional(),
  pulses: z.int().min(1).max(1e9).optional(),
});

/** What is done about an alarm from the field. */
export const alarmActed = z.discriminatedUnion("action", [
  z.strictObject({ action: z.literal("acknowledge") }),
  z.strictObject({ action: z.literal("cause"), cause }),
  z.strictObject({ action: z.literal("note"), words }),
  z.strictObject({ action: z.literal("photo"), photoId: z.guid(), words: z.string().trim().max(4000).default("") }),
  z.strictObject({ action: z.literal("clear"), cause, repaired: z.boolean().default(false) }),
]);

/** What somebody enters in the field. */
export const entered = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("walkBegin"), ...walkBegun.shape }),
  z.strictObject({ kind: z.literal("walkLook"), ...walkLook.shape }),
  z.strictObject({ kind: z.literal("walkEnd"), walkId: z.guid(), note: z.string().trim().max(4000).default("") }),
  z.strictObject({ kind: z.literal("visitBegin"), visitId: z.guid(), checklistId: z.string().min(1).max(40) }),
  z.strictObject({
    kind: z.literal("visitLook"),
    visitId: z.guid(),
    ...visitEntry.omit({ id: true, at: true }).shape,
  }),
  z.strictObject({ kind: z.literal("visitEnd"), visitId: z.guid(), note: z.string().trim().max(4000).default("") }),
  z.strictObject({ kind: z.literal("alarm"), alarmId: z.guid(), act: alarmActed }),
  z.strictObject({
    kind: z.literal("todoDone"),
    todoId: z.guid(),
    version: z.int().min(1),
    words: z.string().trim().max(500).default(""),
  }),
  /** Flow of a station by meter and stopwatch: a proposal for its learned flow. */
  z.strictObject({
    kind: z.literal("flow"),
    stationId: elementId,
    readings: z
      .array(z.strictObject({ litres: z.number().gt(0).max(1e9), seconds: z.number().gt(0).max(86_400) }))
      .min(1)
      .max(50),
  }),
  /** A flow sensor proved against the meter. `against`: the constant that it had for whoever proved it. */
  z.strictObject({
    kind: z.literal("proof"),
    sensorId: elementId,
    against: outputSchema,
    rows: z.array(provingRow).min(1).max(20),
  }),
  /** What a water meter stands at, m³. */
  z.strictObject({ kind: z.literal("meter"), ...meterEntry.omit({ id: true, at: true }).shape }),
]);
export type Entered = z.output<typeof entered>;
export type EnteredKind = Entered["kind"];

/**
 * Something entered in the field, once under its id however often it is sent. `by`: whose it is; nobody else sends it in their own name. `at`: by the clock of the phone; what
 * lies ahead is taken as now.
 */
export const fieldEntry = z.strictObject({
  id: z.guid(),
  by: z.guid(),
  at: z.iso.datetime({ offset: true }),
  what: entered,
});
export type FieldEntry = z.output<typeof fieldEntry>;

/** Why an entry meets a newer state; the refusal's details name it as `met`, with what it met. */
export type Met =
  | { why: "cleared"; by: string }
  | { why: "todo"; version: number; words: string; doneBy: string | null }
  | { why: "constant"; now: z.output<typeof outputSchema> };
