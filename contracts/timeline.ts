import { z } from "zod";
import { orderSchema } from "../core/field/orders.ts";
import { HOWS } from "./learning.ts";
import { DUTIES } from "../core/visits/duties.ts";

/** What happens at a site, by where it is kept. */
export const HAPPENED = [
  "save",
  "send",
  "order",
  "alarm",
  "deed",
  "learning",
  "visit",
  "walk",
  "todo",
  "due",
  "meter",
  "counter",
  "wire",
] as const;
export type Happened = (typeof HAPPENED)[number];

/** What a timeline is looked through for; a thing may be found under several. */
export const TIMELINE_HEADS = {
  saves: ["save"],
  controllers: ["send", "order"],
  alarms: ["alarm", "deed"],
  lockouts: ["lockout"],
  holds: ["hold"],
  learning: ["learning"],
  proofs: ["proof"],
  visits: ["visit", "walk", "todo", "due"],
  meters: ["meter", "counter"],
  wire: ["wire"],
} as const satisfies Record<string, readonly string[]>;
export type TimelineHead = keyof typeof TIMELINE_HEADS;
export const isTimelineHead = (text: string): text is TimelineHead => text in TIMELINE_HEADS;

export const timelineQuery = z.object({
  /** YYYY-MM by the site's calendar; none: the one it is now. */
  month: z
    .string()
    .regex(/^\d{4}-(0[1-9]|1[0-2])$/)
    .optional(),
  /** Heads, with spaces between; none: everything. */
  only: z
    .string()
    .max(200)
    .transform((text) => text.split(" ").filter(isTimelineHead))
    .default([]),
  /** What the last page ended with. */
  before: z.string().max(200).optional(),
});
export type TimelineQuery = z.output<typeof timelineQuery>;

const who = z.string().nullable();
const ref = z.string();
/** What each sort is told by; who did it, null: nobody signed in. */
export const TOLD_BY = {
  save: z.object({
    ref,
    who,
    note: z.string(),
    /** The first of what changed, in words, and how many there were. */
    first: z.string().nullable(),
    changes: z.number(),
  }),
  send: z.object({
    ref,
    who,
    controllerId: z.string(),
    version: z.number(),
    state: z.string(),
    reason: z.string().nullable(),
  }),
  order: z.object({ ref, who, what: orderSchema, state: z.string(), reason: z.string().nullable() }),
  alarm: z.object({
    ref,
    kind: z.string(),
    subjectId: z.string(),
    message: z.string(),
    state: z.string(),
    rehearsed: z.boolean(),
  }),
  deed: z.object({
    ref,
    who,
    action: z.string(),
    words: z.string(),
    alarmId: z.string(),
    kind: z.string(),
    subjectId: z.string(),
  }),
  learning: z.object({ ref, who, state: z.string(), how: HOWS, results: z.number() }),
  visit: z.object({ ref, who, name: z.string(), note: z.string(), open: z.boolean() }),
  walk: z.object({
    ref,
    who,
    stations: z.number(),
    fine: z.number(),
    problems: z.number(),
    note: z.string(),
    open: z.boolean(),
  }),
  todo: z.object({ ref, who, words: z.string(), doneBy: z.string().nullable(), doneWords: z.string().nullable() }),
  due: z.object({
    ref,
    who,
    duty: z.enum(DUTIES),
    subjectId: z.string().nullable(),
    on: z.string(),
    words: z.string(),
  }),
  meter: z.object({ ref, who, meterId: z.string(), m3: z.number(), note: z.string() }),
  counter: z.object({ ref, who, sensorId: z.string(), counter: z.number(), reason: z.string() }),
  wire: z.object({ ref, who, controllerId: z.string(), how: z.string(), stations: z.number() }),
} as const satisfies Record<Happened, z.ZodType>;
export type ToldBy = { [S in Happened]: z.infer<(typeof TOLD_BY)[S]> };
/** @property at an instant */
export type TimelineEntry = { [S in Happened]: { sort: S; at: string; told: ToldBy[S] } }[Happened];
/** @property first the month in which the site's history begins @property next asks for what came before; null: that is all of the month */
export type TimelinePage = { month: string; first: string; entries: TimelineEntry[]; next: string | null };
