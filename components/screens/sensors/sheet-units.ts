import type { FlowSensor } from "@/core/site-file/schema";
import { LITRES_PER_US_GALLON } from "@/core/units/units";

export type Frequency = Extract<FlowSensor["output"], { type: "frequency" }>;
export type Pulse = Extract<FlowSensor["output"], { type: "pulse" }>;
export type VolumeUnit = NonNullable<Pulse["sheetUnit"]>;

/** Litres in the units in which data sheets give a pulse. */
export const LITRES: Record<VolumeUnit, number> = { gal: LITRES_PER_US_GALLON, L: 1, m3: 1000, ft3: 28.316846592 };
export const VOLUME_WORDS: Record<VolumeUnit, string> = { gal: "US gal", L: "L", m3: "m³", ft3: "ft³" };

/** K as the sheet gives it. The file keeps US gal/min per Hz. */
export function shownK(output: Frequency): number {
  return output.sheetUnit === "lpm" ? output.kGpm * LITRES_PER_US_GALLON : output.kGpm;
}
export function keptK(shown: number, unit: Frequency["sheetUnit"]): number {
  return unit === "lpm" ? shown / LITRES_PER_US_GALLON : shown;
}

/** A pulse as the sheet gives it: volume a pulse, or pulses a volume. The file keeps litres a pulse. */
export function shownPulse(output: Pulse): number {
  const volume = output.litresPerPulse / LITRES[output.sheetUnit ?? "L"];
  return output.sheetReciprocal ? 1 / volume : volume;
}
export function keptPulse(shown: number, unit: VolumeUnit, reciprocal: boolean): number {
  return (reciprocal ? 1 / shown : shown) * LITRES[unit];
}
