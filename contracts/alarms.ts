import { z } from "zod";

/** An instant as it goes over the wire: ISO 8601 in UTC. */
const instant = z.string();

/** An alarm of a site, with the people's names in it. Flows in L/min, volumes in L, times in min. */
export const alarm = z.strictObject({
  id: z.string(),
  siteId: z.string(),
  siteName: z.string(),
  at: instant,
  kind: z.string(),
  subjectId: z.string(),
  measuredLpm: z.number(),
  expectedLpm: z.number(),
  message: z.string(),
  locked: z.array(z.string()),
  state: z.enum(["open", "acknowledged", "cleared"]),
  cause: z.string().nullable(),
  assignedTo: z.string().nullable(),
  assignedToName: z.string().nullable(),
  acknowledgedAt: instant.nullable(),
  acknowledgedByName: z.string().nullable(),
  clearedAt: instant.nullable(),
  clearedByName: z.string().nullable(),
  /** Of a night rehearsed on the bench; else of the site itself. */
  rehearsed: z.boolean(),
  /** Of the whole night that it belongs to. */
  nightLostL: z.number().nullable(),
  nightUnwateredMin: z.number().nullable(),
  /** Of a live alarm: since when its system read outside its limits, for how many minutes in all, and what that was more than expected (less: below 0), L. */
  departedFrom: instant.nullable(),
  departedMin: z.number().nullable(),
  departedL: z.number().nullable(),
});
export type Alarm = z.infer<typeof alarm>;

/** What somebody did about an alarm. */
export const alarmEntry = z.strictObject({
  id: z.string(),
  alarmId: z.string(),
  at: instant,
  madeByName: z.string(),
  action: z.string(),
  words: z.string(),
  hasPhoto: z.boolean(),
});
export type AlarmEntry = z.infer<typeof alarmEntry>;

export const person = z.strictObject({ id: z.string(), name: z.string() });
export type Person = z.infer<typeof person>;

/** A page of the alarms over all sites, each with the units and the clock of its site; of how many. */
export const alarmList = z.strictObject({
  found: z.number(),
  /** There are more than `found`; they are not counted. */
  more: z.boolean(),
  pageSize: z.number(),
  alarms: z.array(alarm.extend({ siteUnits: z.enum(["us", "metric"]), siteZone: z.string() })),
  entries: z.array(alarmEntry),
  people: z.array(person),
});
export type AlarmList = z.infer<typeof alarmList>;

/** Several alarms that have one cause, cleared together; a station that was repaired is learned again. */
export const clearManyRequest = z.strictObject({
  alarms: z
    .array(z.strictObject({ siteId: z.guid(), alarmId: z.guid() }))
    .min(1)
    .max(50),
  cause: z.string().trim().min(3, "A cause of at least three letters is needed.").max(1000),
  repaired: z.boolean(),
});
export type ClearManyRequest = z.infer<typeof clearManyRequest>;
