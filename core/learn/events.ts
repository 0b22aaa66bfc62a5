import type { EpochS } from "../dates/wall-time.ts";
import type { RefusalReason } from "./refusals.ts";

export type Verdict = "accepted" | "unsteady" | "noFlow" | "overCeiling" | "stopped";
export type LearnResult = {
  stationId: string;
  verdict: Verdict;
  meanLpm: number;
  sdLpm: number;
  samples: number;
  secondsToSteady: number | null;
  /** Stations that ran beside it, for one learned by difference. */
  companionIds?: string[];
};
/** Several stations as they run together, and how much less they use than each alone. */
export type SetResult = {
  stationIds: string[];
  verdict: Verdict;
  meanLpm: number;
  sdLpm: number;
  samples: number;
  secondsToSteady: number | null;
  partsLpm: number;
  ratio: number;
};
export type Baseline = {
  pocIds: string[];
  mainlineIds: string[];
  measuredLpm: number;
  limitLpm: number;
  flowing: boolean;
  /** With the pump off nothing stands under pressure: the test cannot see a leak. */
  blind?: boolean;
};
export type LearnEvent =
  | { type: "baseline"; at: EpochS; baseline: Baseline }
  | { type: "refused"; stationId: string; reasons: RefusalReason[] }
  | { type: "waits"; at: EpochS; until: EpochS; why: "handWatering" | "scheduledRuns" }
  | { type: "left"; at: EpochS; stationIds: string[] }
  | { type: "opens"; at: EpochS; stationId: string; withIds?: string[] }
  | { type: "sample"; at: EpochS; stationId: string | null; readingLpm: number; settling: boolean }
  | { type: "result"; at: EpochS; result: LearnResult }
  | { type: "set"; at: EpochS; result: SetResult };
export type LearnOptions = {
  /** Local date of the bench. */
  date: string;
  /** Local hour at which it begins. @default "00:00" */
  from?: string;
  /** Local hour past which no station is begun that could outlast it; at or before `from`: the next day. @default none */
  to?: string;
  /** The instant past which no station is begun that could outlast it, in place of `to`. */
  endAt?: EpochS;
  /** Wait for hand-watering hours and scheduled runs to end. @default false */
  avoid?: boolean;
  /** Seconds of the baseline test after filling. @default 30 */
  baselineS?: number;
  /** Stations to learn. @default all */
  stationIds?: string[];
  /** Stations done before, when going on: not opened again. */
  doneIds?: string[];
  /** Seconds of the bench already gone, when going on. @default 0 */
  elapsedS?: number;
  /** Sets to learn after the stations, as they run together. */
  sets?: string[][];
  faults?: unknown;
  /** @default 1 */
  seed?: number;
  /** @default false */
  exact?: boolean;
  /** Seconds after hold-off until *unsteady*. @default 300, drip and bubblers 600, pulse sensors as long as their pulses need */
  timeLimitS?: number;
};
export type Learning = {
  baseline: Baseline[];
  results: LearnResult[];
  refused: { stationId: string; reasons: RefusalReason[] }[];
  seconds: number;
  litres: number;
  sets?: SetResult[];
  left?: string[];
};
