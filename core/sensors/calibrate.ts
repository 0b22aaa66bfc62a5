import { nth } from "../checked.ts";
import { LITRES_PER_US_GALLON } from "../units/units.ts";

export type MeterTest = { hz: number; litres: number; seconds: number };
export type CalibrateRequest = { kGpm?: number | undefined; offsetHz?: number | undefined; tests: MeterTest[] };
export type Calibration = { kGpm: number; offsetHz: number; residuals: number[]; worstPercent: number };
export type CalibrateRefusal = {
  code: "noTests" | "testNotPositive" | "kMissing" | "flowsTooClose" | "slopeNotPositive";
  path: string;
};

/** The flows of two tests must differ at least by this factor before a line through them means anything. */
const LEAST_SPREAD = 1.5;

/**
 * Proves a frequency sensor against the water meter (handbook#4-sensors). One test: K' = K·Q_meter/Q_read, offset kept. More:
 * least squares Q = a·f + b in US gal/min, K = a, offset = b/a. Residuals are read minus metered, L/min.
 */
export function calibrate(
  request: CalibrateRequest,
): { ok: true; value: Calibration } | { ok: false; refusal: CalibrateRefusal } {
  const { tests } = request;
  if (tests.length === 0) return { ok: false, refusal: { code: "noTests", path: "tests" } };
  for (const [i, test] of tests.entries())
    for (const key of ["hz", "litres", "seconds"] as const)
      if (!(test[key] > 0)) return { ok: false, refusal: { code: "testNotPositive", path: `tests[${i}].${key}` } };
  const metered = tests.map((t) => (t.litres / t.seconds) * 60);
  const gpm = metered.map((q) => q / LITRES_PER_US_GALLON);

  let kGpm: number;
  let offsetHz: number;
  if (tests.length === 1) {
    if (request.kGpm === undefined) return { ok: false, refusal: { code: "kMissing", path: "kGpm" } };
    offsetHz = request.offsetHz ?? 0;
    const read = request.kGpm * (nth(tests, 0).hz + offsetHz);
    if (!(read > 0)) return { ok: false, refusal: { code: "slopeNotPositive", path: "offsetHz" } };
    kGpm = (request.kGpm * nth(gpm, 0)) / read;
  } else {
    if (Math.max(...gpm) < LEAST_SPREAD * Math.min(...gpm))
      return { ok: false, refusal: { code: "flowsTooClose", path: "tests" } };
    const line = leastSquares(
      tests.map((t) => t.hz),
      gpm,
    );
    if (!line || !(line.slope > 0)) return { ok: false, refusal: { code: "slopeNotPositive", path: "tests" } };
    kGpm = line.slope;
    offsetHz = line.intercept / line.slope;
  }
  const residuals = tests.map((t, i) => LITRES_PER_US_GALLON * kGpm * (t.hz + offsetHz) - nth(metered, i));
  const worstPercent = Math.max(...residuals.map((r, i) => (100 * Math.abs(r)) / nth(metered, i)));
  return { ok: true, value: { kGpm, offsetHz, residuals, worstPercent } };
}

/** Ordinary least squares of y on x; null when all x are equal. */
export function leastSquares(x: number[], y: number[]): { slope: number; intercept: number } | null {
  const n = x.length;
  const mx = x.reduce((a, b) => a + b, 0) / n;
  const my = y.reduce((a, b) => a + b, 0) / n;
  let sxx = 0;
  let sxy = 0;
  for (let i = 0; i < n; i++) {
    sxx += (nth(x, i) - mx) ** 2;
    sxy += (nth(x, i) - mx) * (nth(y, i) - my);
  }
  return sxx === 0 ? null : { slope: sxy / sxx, intercept: my - (sxy / sxx) * mx };
}
