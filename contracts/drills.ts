import { z } from "zod";

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
