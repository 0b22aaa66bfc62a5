import { z } from "zod";

const ordered = (from: number | undefined, to: number | undefined): boolean => (from ?? 0) <= (to ?? Infinity);
const count = z.number().int().min(1).max(10_000);
/** What one kind of controller can do, in the organisation's own words. */
export const profileSchema = z
  .strictObject({
    name: z.string().trim().min(1).max(200),
    note: z.string().max(1000),
    programs: count,
    startsPerProgram: count,
    stations: count,
    atOnce: count,
    /** Steps in which it takes run times, min, and percentages, %. */
    minuteStep: z.number().gt(0).max(60),
    percentStep: z.number().gt(0).max(100),
    percentMax: z.number().min(1).max(1000),
    delayStepS: z.number().int().min(1).max(3600),
    delayMaxS: z.number().int().min(0).max(86_400),
    cycleAndSoak: z.boolean(),
    windows: z.boolean(),
    oddEven: z.boolean(),
    interval: z.boolean(),
    halfMonth: z.boolean().default(false),
    flowLimits: z.boolean(),
    /** What high and low limits it takes, %, and for how long a reading must stay beyond one, s; absent: any. */
    limitFromPercent: z.number().min(0).max(1000).optional(),
    limitToPercent: z.number().min(1).max(1000).optional(),
    persistenceFromS: z.number().int().min(0).max(86_400).optional(),
    persistenceToS: z.number().int().min(1).max(86_400).optional(),
  })
  .refine(
    (p) => ordered(p.limitFromPercent, p.limitToPercent) && ordered(p.persistenceFromS, p.persistenceToS),
    "A range ends before it begins.",
  );
export type Profile = z.infer<typeof profileSchema>;
/** `keptAt`: of those that an organisation describes, when it was last done. */
export type KeptProfile = Profile & { id: string; keptAt?: string };

/** Three kinds that do not exist, of different ability, to begin with. */
export const INVENTED: KeptProfile[] = [
  {
    id: "invented-plain",
    name: "Plain wall clock",
    note: "invented: one valve at a time, nothing watched",
    programs: 3,
    startsPerProgram: 4,
    stations: 24,
    atOnce: 1,
    minuteStep: 1,
    percentStep: 10,
    percentMax: 200,
    delayStepS: 10,
    delayMaxS: 120,
    cycleAndSoak: false,
    windows: false,
    oddEven: true,
    interval: true,
    halfMonth: false,
    flowLimits: false,
  },
  {
    id: "invented-middle",
    name: "Middle house",
    note: "invented: a few at once, half minutes",
    programs: 6,
    startsPerProgram: 6,
    stations: 60,
    atOnce: 4,
    minuteStep: 0.5,
    percentStep: 5,
    percentMax: 250,
    delayStepS: 5,
    delayMaxS: 900,
    cycleAndSoak: true,
    windows: false,
    oddEven: true,
    interval: true,
    halfMonth: false,
    flowLimits: true,
    limitFromPercent: 10,
    limitToPercent: 100,
    persistenceFromS: 30,
    persistenceToS: 900,
  },
  {
    id: "invented-large",
    name: "Large two-wire",
    note: "invented: many at once, seconds, windows",
    programs: 40,
    startsPerProgram: 12,
    stations: 250,
    atOnce: 20,
    minuteStep: 1 / 60,
    percentStep: 1,
    percentMax: 300,
    delayStepS: 1,
    delayMaxS: 3600,
    cycleAndSoak: true,
    windows: true,
    oddEven: true,
    interval: true,
    halfMonth: true,
    flowLimits: true,
  },
];
