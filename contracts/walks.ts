import { z } from "zod";

/** What came of a station on a walk. */
export const WALKED = ["fine", "problem", "skipped"] as const;
export type Walked = (typeof WALKED)[number];
/** What is usually wrong at a station, as the office reads it. */
export const PROBLEM_WORDS = {
  leak: "leak",
  broken: "broken head or pipe",
  clogged: "clogged",
  noFlow: "does not open",
  stuck: "does not close",
  coverage: "coverage or aim",
  box: "valve box",
  wiring: "wiring",
  other: "something else",
} as const;
export type WalkProblem = keyof typeof PROBLEM_WORDS;
export const WALK_PROBLEMS = Object.keys(PROBLEM_WORDS) as [WalkProblem, ...WalkProblem[]];

const elementId = z.string().min(1).max(80);
export const walkBegun = z.strictObject({
  walkId: z.guid(),
  /** In the order in which they are walked. */
  stationIds: z.array(elementId).min(1, "A walk needs a station at least.").max(10_000),
});
export const walkLook = z.strictObject({
  walkId: z.guid(),
  stationId: elementId,
  state: z.enum(WALKED),
  /** Of what is a problem. */
  problem: z.enum(WALK_PROBLEMS).nullable().default(null),
  /** What the sensor or the meter read while it ran, L/min. */
  readLpm: z.number().min(0).max(1e6).nullable().default(null),
  note: z.string().trim().max(1000).default(""),
  photoIds: z.array(z.guid()).max(12, "At most 12 photographs.").default([]),
  /** Who is to see to a problem, and by when. */
  ownerId: z.guid().nullable().default(null),
  due: z.iso.date().nullable().default(null),
});
export type WalkLook = z.output<typeof walkLook>;

/** A walk from station to station. @property looked the newest of each station */
export type WalkView = {
  id: string;
  stationIds: string[];
  begunAt: string;
  endedAt: string | null;
  note: string;
  by: string;
  /** Whether whoever asks has begun it: nobody else goes on with it. */
  mine: boolean;
  looked: WalkLooked[];
};
export type WalkLooked = Pick<WalkLook, "stationId" | "state" | "problem" | "readLpm" | "note" | "photoIds"> & {
  id: string;
  at: string;
  by: string;
};
