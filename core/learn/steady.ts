import { leastSquares } from "../sensors/calibrate.ts";

/** What steady means (handbook 7), in seconds and shares. */
export type SteadyRule = {
  /** @default 30 */ windowS: number;
  /** Standard deviation and drift of the window, as shares of its mean. @default 0.03 */ tolerance: number;
};
export const USUAL_STEADY: SteadyRule = { windowS: 30, tolerance: 0.03 };

export type WindowStatistics = { meanLpm: number; sdLpm: number; driftLpm: number; samples: number };

/** Mean, standard deviation and the change of the least-squares line over the window, one sample a second. */
export function windowStatistics(samples: number[]): WindowStatistics {
  const n = samples.length;
  const meanLpm = samples.reduce((a, b) => a + b, 0) / n;
  const sdLpm = n > 1 ? Math.sqrt(samples.reduce((a, b) => a + (b - meanLpm) ** 2, 0) / (n - 1)) : 0;
  const line = leastSquares(samples.map((_, i) => i), samples);
  return { meanLpm, sdLpm, driftLpm: Math.abs((line?.slope ?? 0) * (n - 1)), samples: n };
}

/** Steady: standard deviation within 3 % of the mean, and the line changes over the window by no more than 3 % of it. */
export function isSteady(statistics: WindowStatistics, rule: SteadyRule = USUAL_STEADY): boolean {
  const allowed = rule.tolerance * statistics.meanLpm + 1e-9;
  return statistics.samples >= rule.windowS && statistics.sdLpm <= allowed && statistics.driftLpm <= allowed;
}
