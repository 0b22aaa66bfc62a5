import { z } from "zod";
import { id } from "../core/site-file/basics-schema.ts";
import { FAULT_KINDS } from "../core/bench/faults/kinds.ts";
import { dateSchema } from "../core/dates/date-schema.ts";

const cause = z.object({ kind: z.string(), subjectId: z.string() });
/** What came of one drill; the figures of water in L, the times in s. */
export const drill = z.object({
  id: z.string(),
  doneAt: z.date(),
  userName: z.string(),
  hidden: cause,
  named: cause,
  namedRight: z.boolean(),
  checks: z.number(),
  seconds: z.number(),
  lostL: z.number(),
});
export type Drill = z.infer<typeof drill>;

/** A person's drills over all sites: how many, how many right, and on average checks, minutes and litres. */
export const drillPerson = z.object({
  userName: z.string(),
  drills: z.number(),
  right: z.number(),
  checks: z.number(),
  minutes: z.number(),
  lostL: z.number(),
});
export type DrillPerson = z.infer<typeof drillPerson>;

export type DrillBook = { drills: Drill[]; people: DrillPerson[] };

const check = z.discriminatedUnion("type", [
  z.strictObject({ type: z.literal("read") }),
  z.strictObject({ type: z.literal("meter"), pocId: id }),
  z.strictObject({ type: z.literal("gauge"), pocId: id }),
  z.strictObject({ type: z.literal("look"), subjectId: id }),
]);
const standing = z.strictObject({
  open: z.array(id).max(500).readonly(),
  valves: z.array(id).max(100).readonly(),
  pumps: z.array(id).max(100).readonly(),
});
/** A drill gone through in the page: what was done of it, and what was named in the end. */
export const drillRequest = z.strictObject({
  version: z.int().min(1),
  date: dateSchema,
  seed: z.int().min(0).max(1e9),
  steps: z.array(z.strictObject({ standing, check })).max(100),
  named: z.strictObject({ kind: z.enum(FAULT_KINDS), subjectId: id }),
});
export type DrillRequest = z.infer<typeof drillRequest>;
