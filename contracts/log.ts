import { z } from "zod";
import { alarm, alarmEntry, person } from "./alarms.ts";

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
  there: z
    .strictObject({
      read: z.number(),
      differs: z.number(),
      oldestReadAt: z.string().nullable(),
      sending: z.boolean(),
    })
    .nullable(),
  nights: z
    .strictObject({
      night: z.string(),
      workedAt: z.string(),
      contradicted: z.array(z.string()),
      confirmed: z.array(z.string()),
    })
    .nullable(),
});
export type LogFacts = z.infer<typeof logFacts>;

/** A revision of a site's configuration, without the file itself. */
export const revisionHead = z.strictObject({
  version: z.number(),
  note: z.string(),
  madeAt: z.string(),
  madeByName: z.string(),
  changes: z.array(z.strictObject({ path: z.string(), words: z.string() })),
});
export type RevisionHead = z.infer<typeof revisionHead>;

/** What a site's log holds: the newest 200 alarms and revisions, and what was done about each alarm. */
export const logBook = z.strictObject({
  alarms: z.array(alarm),
  entries: z.array(alarmEntry),
  revisions: z.array(revisionHead),
  people: z.array(person),
});
export type LogBook = z.infer<typeof logBook>;
