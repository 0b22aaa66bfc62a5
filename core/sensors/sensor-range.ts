import { flowAtVelocityLpm } from "../pipes/flow-in-pipe.ts";
import type { FlowSensor } from "../site-file/schema.ts";
import { LITRES_PER_US_GALLON } from "../units/units.ts";

/** Without a data sheet a body sees 0.3 to 6 m/s (handbook#4-sensors). */
const USUAL_V_MIN = 0.3;
const USUAL_V_MAX = 6;

type Range = { minLpm: number | null; maxLpm: number | null };
/** Asked for at every second of the bench; a sensor's record is never changed in place. */
const RANGES = new WeakMap<FlowSensor, Range>();

/**
 * The flows a sensor can see, L/min. Stated figures win; else velocity × bore; null where neither is known.
 * Q = v·π d²/4 (handbook#4-sensors).
 */
export function sensorRange(sensor: FlowSensor): Range {
  const known = RANGES.get(sensor);
  if (known) return known;
  const bore =
    sensor.insideDiameterMm ?? (sensor.output.type === "frequency" ? sensor.output.insideDiameterMm : undefined);
  const at = (v: number): number | null => (bore === undefined ? null : flowAtVelocityLpm(v, bore));
  const range = {
    minLpm: sensor.minLpm ?? at(sensor.vMinMs ?? USUAL_V_MIN),
    maxLpm: sensor.maxLpm ?? at(sensor.vMaxMs ?? USUAL_V_MAX),
  };
  RANGES.set(sensor, range);
  return range;
}

/** K in US gal/min per Hz, scaled by area where an insertion sensor sits in another bore: K = K_ref·(d/d_ref)². */
export function effectiveKGpm(output: Extract<FlowSensor["output"], { type: "frequency" }>): number {
  if (output.insideDiameterMm === undefined || output.referenceDiameterMm === undefined) return output.kGpm;
  return output.kGpm * (output.insideDiameterMm / output.referenceDiameterMm) ** 2;
}

/** Frequency in Hz → flow in L/min (handbook#4-sensors): frequency type 3.785411784·K·(f + offset), 0 at f = 0; pulse type V·f·60. */
export function flowFromHz(output: FlowSensor["output"], hz: number): number {
  if (hz <= 0) return 0;
  if (output.type === "pulse") return output.litresPerPulse * hz * 60;
  return Math.max(0, LITRES_PER_US_GALLON * effectiveKGpm(output) * (hz + output.offsetHz));
}

/** Flow in L/min → the frequency that reads as it, Hz; never negative. The inverse of {@link flowFromHz}. */
export function hzFromFlow(output: FlowSensor["output"], lpm: number): number {
  if (lpm <= 0) return 0;
  if (output.type === "pulse") return lpm / (output.litresPerPulse * 60);
  return Math.max(0, lpm / (LITRES_PER_US_GALLON * effectiveKGpm(output)) - output.offsetHz);
}
