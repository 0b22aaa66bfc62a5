import { nth } from "../checked.ts";
import type { FlowSensor } from "../site-file/schema.ts";
import { calibrate, type CalibrateRefusal } from "./calibrate.ts";
import { effectiveKGpm, flowFromHz } from "./sensor-range.ts";

/** One proving run as noted: meter before and after, time, and the sensor's frequency or the pulses it gave. */
export type ProvingRow = { startL: number; endL: number; seconds: number; hz?: number; pulses?: number };
export type ProvenTest = {
  hz: number;
  litres: number;
  seconds: number;
  meteredLpm: number;
  readLpm: number;
  fittedLpm: number;
  residualPercent: number;
};
export type Proof = {
  output: FlowSensor["output"];
  tests: ProvenTest[];
  worstPercent: number;
  /** New constant ÷ old. */
  factor: number;
  method: "onePoint" | "leastSquares";
};
export type ProofRefusal =
  | { code: CalibrateRefusal["code"] | "meterBackwards" | "noSignal"; row?: number }
  | { code: "residualTooLarge"; worstPercent: number; limit: number; row: number }
  | { code: "factorTooLarge"; factor: number; limit: number }
  | { code: "offsetTooLarge"; offsetHz: number; limit: number }
  | { code: "tooFewPulses"; pulses: number; limit: number; row: number };

/** A fit that leaves a test further than this from its meter is not one sensor on one meter. */
const LARGEST_RESIDUAL_PERCENT = 5;
/** A constant that changes by more than this is a wrong sheet or a wrong bore, not a calibration; mend that first. */
const LARGEST_FACTOR = 3;
/** An offset above this many Hz, or above half the lowest test's frequency, says that the tests do not belong together. */
const LARGEST_OFFSET_HZ = 5;
/** Fewer pulses than this count too coarsely (handbook#4-sensors). */
const LEAST_PULSES = 20;

/**
 * Proves a sensor against the water meter (handbook#4-sensors): rows → constants, residuals, or a refusal with its reason. Pulse sensors are fitted
 * through zero: volume per pulse = Σ litres·pulses ÷ Σ pulses².
 */
export function prove(
  sensor: FlowSensor,
  rows: ProvingRow[],
): { ok: true; value: Proof } | { ok: false; refusal: ProofRefusal } {
  for (const [row, r] of rows.entries()) {
    if (!(r.endL > r.startL)) return { ok: false, refusal: { code: "meterBackwards", row } };
    if (!(r.seconds > 0)) return { ok: false, refusal: { code: "testNotPositive", row } };
    if (!((r.hz ?? 0) > 0 || (r.pulses ?? 0) > 0)) return { ok: false, refusal: { code: "noSignal", row } };
  }
  if (rows.length === 0) return { ok: false, refusal: { code: "noTests" } };
  const tests = rows.map((r) => ({
    litres: r.endL - r.startL,
    seconds: r.seconds,
    hz: (r.hz ?? 0) > 0 ? (r.hz as number) : (r.pulses as number) / r.seconds,
  }));
  const { output } = sensor;
  const fitted = output.type === "pulse" ? pulseFit(output, tests, rows) : frequencyFit(output, tests);
  if (!fitted.ok) return fitted;
  const judged = tests.map((t) => {
    const meteredLpm = (t.litres / t.seconds) * 60;
    const fittedLpm = flowFromHz(fitted.output, t.hz);
    return {
      ...t,
      meteredLpm,
      readLpm: flowFromHz(output, t.hz),
      fittedLpm,
      residualPercent: (100 * (fittedLpm - meteredLpm)) / meteredLpm,
    };
  });
  const worstPercent = Math.max(...judged.map((t) => Math.abs(t.residualPercent)));
  const row = judged.findIndex((t) => Math.abs(t.residualPercent) === worstPercent);
  if (worstPercent > LARGEST_RESIDUAL_PERCENT)
    return { ok: false, refusal: { code: "residualTooLarge", worstPercent, limit: LARGEST_RESIDUAL_PERCENT, row } };
  const factor = constantOf(fitted.output) / constantOf(output);
  if (factor > LARGEST_FACTOR || factor < 1 / LARGEST_FACTOR)
    return { ok: false, refusal: { code: "factorTooLarge", factor, limit: LARGEST_FACTOR } };
  return {
    ok: true,
    value: {
      output: fitted.output,
      tests: judged,
      worstPercent,
      factor,
      method: tests.length === 1 ? "onePoint" : "leastSquares",
    },
  };
}

const constantOf = (output: FlowSensor["output"]): number =>
  output.type === "pulse" ? output.litresPerPulse : effectiveKGpm(output);
type Tests = { hz: number; litres: number; seconds: number }[];
type Fit = { ok: true; output: FlowSensor["output"] } | { ok: false; refusal: ProofRefusal };

function frequencyFit(output: Extract<FlowSensor["output"], { type: "frequency" }>, tests: Tests): Fit {
  const scale = output.kGpm / effectiveKGpm(output);
  const fit = calibrate({ kGpm: effectiveKGpm(output), offsetHz: output.offsetHz, tests });
  if (!fit.ok) {
    const row = /\[(\d+)\]/.exec(fit.refusal.path)?.[1];
    return { ok: false, refusal: { code: fit.refusal.code, ...(row === undefined ? {} : { row: Number(row) }) } };
  }
  const limit = Math.max(LARGEST_OFFSET_HZ, Math.min(...tests.map((t) => t.hz)) / 2);
  if (tests.length > 1 && Math.abs(fit.value.offsetHz) > limit)
    return { ok: false, refusal: { code: "offsetTooLarge", offsetHz: fit.value.offsetHz, limit } };
  return {
    ok: true,
    output: { ...output, kGpm: tidy(fit.value.kGpm * scale), offsetHz: Number(fit.value.offsetHz.toFixed(6)) },
  };
}

function pulseFit(output: Extract<FlowSensor["output"], { type: "pulse" }>, tests: Tests, rows: ProvingRow[]): Fit {
  const pulses = tests.map((t, i) => rows[i]?.pulses ?? t.hz * t.seconds);
  const few = pulses.findIndex((n) => n < LEAST_PULSES);
  if (few >= 0)
    return {
      ok: false,
      refusal: { code: "tooFewPulses", pulses: nth(pulses, few), limit: LEAST_PULSES, row: few },
    };
  const lpp =
    tests.reduce((sum, t, i) => sum + t.litres * nth(pulses, i), 0) / pulses.reduce((sum, n) => sum + n * n, 0);
  return { ok: true, output: { ...output, litresPerPulse: tidy(lpp) } };
}

const tidy = (v: number): number => Number(v.toPrecision(8));
