import { z } from "zod";
import { clockSchema, dateSchema } from "../core/dates/date-schema.ts";
import type { Baseline, LearnEvent, LearnResult, SetResult } from "../core/learn/events.ts";
import { FLOW_UNITS, type FlowUnit } from "../core/learn/flow-units.ts";
import { LEARNED_COLUMNS } from "../core/learn/learned-csv.ts";
import { READING_COLUMNS } from "../core/learn/readings-sheet.ts";
import type { RefusalReason } from "../core/learn/refusals.ts";

const ids = z.array(z.string().max(200)).max(10_000);
export const learningRequest = z.object({
  stationIds: ids.nullable(),
  /** Sets to learn after the stations, as they run together. */
  sets: z.array(ids.min(2)).max(500).default([]),
  faults: z.array(z.unknown()).max(100),
  seed: z.number().int().min(0).max(1e9),
  /** Bench seconds in one second of waiting; 0: as fast as it computes. */
  pace: z.number().min(0).max(100_000),
  date: dateSchema,
  /** Local hours of the bench: when it begins, and past which nothing is begun that could outlast it. */
  from: clockSchema.default("00:00"),
  to: clockSchema.optional(),
  /** Waits for hand-watering hours and scheduled runs to end. */
  avoid: z.boolean().default(false),
  baselineS: z.number().int().min(10).max(3600).default(30),
  /** Waits until that hour of that date comes in the site's own time. */
  later: z.boolean().default(false),
});
export type LearningRequest = z.infer<typeof learningRequest>;
/** What an import, a stopwatch or the controllers keep instead. */
const fromOutside = z.object({ source: z.string().max(200), stationIds: ids.optional() });

export type Meter = { beforeL: number; afterL: number; minutes: number; leakLpm: number };
/** A set's result, with when it was taken. */
export type KeptSet = SetResult & { at: string; takenAt?: string };
export type Wait = { at: number; until: number; why: "handWatering" | "scheduledRuns" };
/** One reading a second from `at` on (epoch seconds); `read` are the stretches after the hold-off, as places in `lpm`. */
export type KeptTrace = { at: number; lpm: number[]; read: [from: number, to: number][] };
export const HOWS = z.enum(["bench", "readings", "list", "stopwatch", "controller", "nights"]);
export type How = z.infer<typeof HOWS>;

export const learningRun = z.object({
  id: z.string(),
  organisationId: z.string(),
  siteId: z.string(),
  version: z.number(),
  state: z.enum(["queued", "running", "done", "stopped", "failed"]),
  how: HOWS,
  request: z.union([learningRequest, fromOutside]),
  baseline: z.array(z.unknown()),
  refused: z.array(z.unknown()),
  waits: z.array(z.unknown()),
  leftIds: z.array(z.string()),
  sets: z.array(z.unknown()),
  meter: z.unknown(),
  seconds: z.number().nullable(),
  litres: z.number().nullable(),
  elapsed: z.number(),
  askedAt: z.date(),
  startAt: z.date(),
  endedAt: z.date().nullable(),
  askedByName: z.string(),
});
export type LearningRun = Omit<
  z.infer<typeof learningRun>,
  "baseline" | "refused" | "waits" | "sets" | "meter" | "request"
> & {
  request: LearningRequest | z.infer<typeof fromOutside>;
  baseline: Baseline[];
  refused: { stationId: string; reasons: RefusalReason[] }[];
  waits: Wait[];
  sets: KeptSet[];
  meter: Meter | null;
};
export const learningResult = z.object({
  runId: z.string(),
  elementId: z.string(),
  verdict: z.enum(["accepted", "unsteady", "noFlow", "overCeiling", "stopped"]),
  meanLpm: z.number(),
  sdLpm: z.number(),
  samples: z.number(),
  secondsToSteady: z.number().nullable(),
  companionIds: z.array(z.string()),
  learnedAt: z.date(),
  takenAt: z.date().nullable(),
  before: z.unknown(),
  how: HOWS,
  version: z.number(),
  traced: z.boolean(),
});
export type LearningResult = z.infer<typeof learningResult>;

const unit = z.enum(Object.keys(FLOW_UNITS) as [FlowUnit, ...FlowUnit[]]);
const text = z.string().max(8_000_000);
/** Flows from outside the bench: a list of learned flows, a recorder's log, a meter and a stopwatch. */
export const outsideRequest = z.discriminatedUnion("how", [
  z.strictObject({
    how: z.literal("list"),
    source: z.string().max(200),
    text,
    unit,
    columns: z.array(z.enum(LEARNED_COLUMNS)).max(200).optional(),
  }),
  z.strictObject({
    how: z.literal("readings"),
    source: z.string().max(200),
    text,
    unit,
    columns: z.array(z.enum(READING_COLUMNS)).max(200),
    date: dateSchema,
    litresPerPulse: z.number().gt(0).max(1e6).optional(),
  }),
  z.strictObject({
    how: z.literal("stopwatch"),
    stationId: z.string().max(200),
    readings: z
      .array(z.strictObject({ litres: z.number().min(0).max(1e9), seconds: z.number().min(0).max(86_400) }))
      .min(1)
      .max(50),
  }),
]);
export type OutsideRequest = z.infer<typeof outsideRequest>;

/** What a watcher is sent: batches of samples, and whatever else happens. */
export type LearningMessage =
  | { type: "samples"; stationId: string | null; rows: [at: number, lpm: number, settling: 0 | 1][] }
  | { type: "opens"; stationId: string; withIds?: string[] }
  | { type: "result"; result: LearnResult }
  | { type: "set" }
  | { type: "baseline"; baseline: Extract<LearnEvent, { type: "baseline" }>["baseline"] }
  | { type: "waits"; at: number; until: number; why: "handWatering" | "scheduledRuns" }
  | { type: "left"; count: number }
  | { type: "refused"; stationId: string; reasons: string[] }
  | { type: "ended"; state: "done" | "stopped" | "failed"; seconds: number; litres: number; end: true };

/** The newest run on the bench, the newest result of every station, the sets learned, and what was learned of each station before. */
export type LearningView = {
  run: LearningRun | null;
  results: LearningResult[];
  sets: (KeptSet & { runId: string })[];
  past: Record<string, { meanLpm: number; at: string }[]>;
};
