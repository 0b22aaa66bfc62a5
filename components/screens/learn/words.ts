import type { StaleReason } from "@/core/learn/basis";
import type { Verdict } from "@/core/learn/events";
import type { RefusalReason } from "@/core/learn/refusals";
import type { Screen } from "@/core/summary/progress";

/** Why a station cannot be learned, and the screen where that is mended. */
export const REFUSAL: Record<RefusalReason, { words: string; mend: Screen }> = {
  noRunTime: { words: "has no run time in any program", mend: "programs" },
  noSensor: { words: "has no working sensor above it", mend: "sensors" },
  lockedOut: { words: "is locked out", mend: "log" },
  excluded: { words: "is excluded (not watched)", mend: "stations" },
  flowAtRest: { words: "water flows with everything closed", mend: "log" },
  belowPumpMinimum: {
    words: "is below the pump's minimum, and no company keeps the pump over it within the ceilings",
    mend: "waterworks",
  },
  noSupply: { words: "has no supply", mend: "waterworks" },
};
export const VERDICT: Record<Verdict, string> = {
  accepted: "accepted",
  unsteady: "unsteady",
  noFlow: "no flow seen",
  overCeiling: "over the ceiling",
  stopped: "stopped",
};
export const STALE: Record<StaleReason | "never", string> = {
  never: "never learned",
  sensor: "sensor constant changed",
  mainline: "mainline changed",
  pressure: "supply or pressure changed",
  station: "station edited",
  repair: "repaired since",
  nights: "its nights contradict it",
  year: "over a year old",
};
export const WAITS = { handWatering: "hand-watering hours", scheduledRuns: "scheduled runs" } as const;

/** Site time that seconds are: "2 h 05 min", "34 min", "40 s". */
export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} min`;
}

/** A share as a signed percentage. */
export const signed = (share: number): string =>
  `${share >= 0 ? "+" : "−"}${Math.abs(100 * share).toFixed(Math.abs(share) < 0.0995 ? 1 : 0)} %`;
