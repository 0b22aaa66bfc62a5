import { nth } from "../checked.ts";
import { leastSquares } from "../sensors/calibrate.ts";
import { Settling } from "./settling.ts";

/** What steady means (handbook#7-learning), in seconds and shares. */
export type SteadyRule = {
  /** @default 30 */ windowS: number;
  /** Standard deviation and drift of the window, as shares of its mean. @default 0.03 */ tolerance: number;
};
export const USUAL_STEADY: SteadyRule = { windowS: 30, tolerance: 0.03 };
/** A mean that lies further than this share off where the flow will end is not its flow yet, however level its window looks. */
export const SETTLED_WITHIN = 0.01;
/** A pulse sensor is judged by the time between pulses, over at least so many (handbook#4-sensors). */
export const PULSES_NEEDED = 20;

export type WindowStatistics = { meanLpm: number; sdLpm: number; driftLpm: number; samples: number };

/** Mean, standard deviation and the change of the least-squares line over the window, one sample a second. */
export function windowStatistics(samples: number[]): WindowStatistics {
  const n = samples.length;
  const meanLpm = samples.reduce((a, b) => a + b, 0) / n;
  const sdLpm = n > 1 ? Math.sqrt(samples.reduce((a, b) => a + (b - meanLpm) ** 2, 0) / (n - 1)) : 0;
  const line = leastSquares(
    samples.map((_, i) => i),
    samples,
  );
  return { meanLpm, sdLpm, driftLpm: Math.abs((line?.slope ?? 0) * (n - 1)), samples: n };
}

/** Steady: standard deviation within 3 % of the mean, and the line changes over the window by no more than 3 % of it. */
export function isSteady(statistics: WindowStatistics, rule: SteadyRule = USUAL_STEADY): boolean {
  const allowed = rule.tolerance * statistics.meanLpm + 1e-9;
  return statistics.samples >= rule.windowS && statistics.sdLpm <= allowed && statistics.driftLpm <= allowed;
}

/**
 * The last pulses of a pulse sensor: the shortest stretch that has at least 20 intervals and the sample window's seconds. Null while there are
 * not so many. Mean = litres ÷ time; spread and drift are those of the time between pulses, taken as flow.
 *
 * @param times seconds at which pulses came, ascending
 * @param resolutionS how coarsely the times were noted; what that alone can make of spread (q²/4) and drift is not held against the flow
 */
export function pulseStatistics(
  times: number[],
  litresPerPulse: number,
  resolutionS = 0,
  rule: SteadyRule = USUAL_STEADY,
): WindowStatistics | null {
  const end = times.length - 1;
  let first = end - PULSES_NEEDED;
  while (first > 0 && nth(times, end) - nth(times, first) < rule.windowS) first--;
  if (first < 0 || nth(times, end) - nth(times, first) < rule.windowS) return null;
  const gaps = Array.from({ length: end - first }, (_, i) => nth(times, first + i + 1) - nth(times, first + i));
  const n = gaps.length;
  const meanGap = (nth(times, end) - nth(times, first)) / n;
  const variance = gaps.reduce((sum, g) => sum + (g - meanGap) ** 2, 0) / (n - 1);
  const spread = Math.sqrt(Math.max(0, variance - ((resolutionS ** 2 / 4) * n) / (n - 1)));
  const slope = Math.abs(
    (leastSquares(
      gaps.map((_, i) => i),
      gaps,
    )?.slope ?? 0) *
      (n - 1),
  );
  const drift = Math.max(0, slope - 2 * resolutionS * Math.sqrt(2 / n));
  const meanLpm = (60 * litresPerPulse) / meanGap;
  return { meanLpm, sdLpm: (meanLpm * spread) / meanGap, driftLpm: (meanLpm * drift) / meanGap, samples: n };
}

/** By how much the last window of {@link pulseStatistics} lies off where the flow will end, by the times between all pulses. */
export function pulsesExcess(times: number[], rule: SteadyRule = USUAL_STEADY): number {
  const settling = new Settling();
  for (let i = 1; i < times.length; i++) {
    const gap = nth(times, i) - nth(times, i - 1);
    if (gap > 0) settling.add(nth(times, i) - gap / 2, 1 / gap);
  }
  const end = times.at(-1) ?? 0;
  return settling.excess(Math.max(nth(times, 0), end - rule.windowS), end);
}

/** The same test for the intervals of {@link pulseStatistics}. */
export function isSteadyPulses(statistics: WindowStatistics, rule: SteadyRule = USUAL_STEADY): boolean {
  const allowed = rule.tolerance * statistics.meanLpm + 1e-9;
  return statistics.samples >= PULSES_NEEDED && statistics.sdLpm <= allowed && statistics.driftLpm <= allowed;
}

/** Seconds that a pulse sensor needs at a flow for {@link PULSES_NEEDED} intervals, a quarter more for what is not quite steady. */
export function pulseWaitS(litresPerPulse: number, flowLpm: number): number {
  return Math.ceil((1.25 * (PULSES_NEEDED + 1) * 60 * litresPerPulse) / flowLpm);
}

/** Too few pulses to judge: what they amount to over the time waited. */
export function roughFlow(
  pulses: number,
  litresPerPulse: number,
  seconds: number,
): { meanLpm: number; sdLpm: number; samples: number } {
  return { meanLpm: seconds > 0 ? (60 * litresPerPulse * pulses) / seconds : 0, sdLpm: 0, samples: pulses };
}
