import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Policy, Station } from "../site-file/schema.ts";

export type SetLimits = {
  /** Σ expected flow, L/min. */
  expectedLpm: number;
  /** Trips above this flow, L/min. */
  highLpm: number;
  /** Trips below this flow, L/min. */
  lowLpm: number;
  /** False where the set cannot be judged: a station without a figure, or none that is monitored. */
  judged: boolean;
};

/**
 * The flows at which a set of running stations trips (handbook#8-limits). Station basis: Σ E(1+h) and Σ E(1−l), overrides per
 * station; graded: one percentage by the total, no overrides. Unmonitored stations add to expected and high, nothing to
 * low. `allowanceLpm`: hand watering allowed now, added to the high limit. `ratio`: what the set as
 * learned uses of the sum of its parts (handbook#7-learning).
 */
export function setLimits(policy: Policy, stations: Station[], allowanceLpm = 0, ratio = 1): SetLimits {
  let expectedLpm = 0;
  let high = 0;
  let low = 0;
  let monitoredLpm = 0;
  let judged = stations.some((s) => s.monitored !== false);
  for (const s of stations) {
    const figure = expectedFlow(s);
    if (!figure) {
      judged = false;
      continue;
    }
    const lpm = figure.lpm * ratio;
    const monitored = s.monitored !== false;
    expectedLpm += lpm;
    high += lpm * (1 + (s.highPercent ?? policy.highPercent) / 100);
    if (monitored) {
      monitoredLpm += lpm;
      low += lpm * (1 - (s.lowPercent ?? policy.lowPercent) / 100);
    }
  }
  if (policy.basis === "graded") {
    const band = gradedPercent(policy, expectedLpm);
    high = expectedLpm * (1 + (band ?? policy.highPercent) / 100);
    low = monitoredLpm * (1 - Math.min(100, band ?? policy.lowPercent) / 100);
  }
  return { expectedLpm, highLpm: high + allowanceLpm, lowLpm: low, judged };
}

/** The band with the largest fromLpm at or under the expected flow; null below the first band. */
export function gradedPercent(policy: Policy, expectedLpm: number): number | null {
  let best: { fromLpm: number; percent: number } | null = null;
  for (const band of policy.bands ?? [])
    if (band.fromLpm <= expectedLpm && (best === null || band.fromLpm > best.fromLpm)) best = band;
  return best?.percent ?? null;
}
