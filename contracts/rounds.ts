import { z } from "zod";

/** What Rounds and the tell-line say of a night; as core/summary/night-summary.ts works it out. */
const nightSummary = z.strictObject({
  date: z.string(),
  finish: z.string().nullable(),
  makespanS: z.number(),
  ratio: z.number().nullable(),
  shortfallMin: z.number(),
  watched: z.number().nullable(),
  findings: z.strictObject({ errors: z.number(), warnings: z.number(), notes: z.number() }),
  binding: z
    .strictObject({
      elementId: z.string(),
      name: z.string(),
      ceilingLpm: z.number(),
      rule: z.string(),
      deviceId: z.string().nullable(),
      peakLpm: z.number(),
    })
    .nullable(),
  sketch: z.array(z.number()),
  litres: z.number(),
});

/** One site on Rounds. */
export const roundsRow = z.strictObject({
  id: z.string(),
  name: z.string(),
  /** The groups it is in, by name. */
  client: z.string().nullable(),
  area: z.string().nullable(),
  crew: z.string().nullable(),
  stations: z.number(),
  controllers: z.number(),
  units: z.enum(["us", "metric"]),
  hold: z.string().nullable(),
  localDate: z.string(),
  openAlarms: z.number(),
  lockedOut: z.number(),
  /** A date of the site. */
  oldestLearned: z.string().nullable(),
  unlearned: z.number(),
  summary: nightSummary,
  version: z.number(),
  /** What is shown of the night is of an earlier revision or day; it is being worked out anew. */
  old: z.boolean(),
  /** Larger needs someone sooner. */
  urgency: z.number(),
  why: z.array(z.string()),
  /** What its nights say has changed and nobody has answered, a line each. */
  nights: z.array(z.string()),
});
export type RoundsRow = z.infer<typeof roundsRow>;

/** Sites by name, for going from one to another. */
export const siteNames = z.strictObject({ sites: z.array(z.strictObject({ id: z.string(), name: z.string() })) });
export type SiteNames = z.infer<typeof siteNames>;

/** What a live site reads now, L/min, against what should flow. */
export const siteNow = z.strictObject({
  siteId: z.string(),
  at: z.string(),
  readingLpm: z.number(),
  expectedLpm: z.number().nullable(),
  /** Against the limits of what is open. */
  state: z.enum(["rest", "inside", "over", "under"]),
  open: z.number(),
});
export type SiteNow = z.infer<typeof siteNow>;
