import { z } from "zod";

export const rehearsal = z.strictObject({
  version: z.number(),
  at: z.string(),
  by: z.string(),
  faults: z.number(),
  alarms: z.number(),
  unwateredMin: z.number(),
});

/** What of a site's history the fittings of its pipe rest on. */
export const logFacts = z.strictObject({
  openAlarms: z.number(),
  calm: rehearsal.nullable(),
  faulted: rehearsal.nullable(),
});
export type LogFacts = z.infer<typeof logFacts>;
