import type { CeilingRule } from "../core/ceilings/ceilings.ts";
import type { Device } from "../core/site-file/schema.ts";

export const DEVICE_WORDS: Record<Device["kind"], string> = {
  meter: "water meter",
  backflow: "backflow preventer",
  masterValve: "master valve",
  pump: "pump",
  pipe: "pipe",
  flowSensor: "flow sensor",
  pressureSensor: "pressure sensor",
  fixedLoss: "filter or other loss",
  regulator: "pressure regulator",
};
export const SOURCE_WORDS = {
  municipal: "mains water",
  well: "well",
  pond: "pond",
  reclaimed: "reclaimed water",
  tank: "tank",
} as const;
export const BINDS: Record<CeilingRule, string> = {
  yield: "what the source yields",
  pipeVelocity: "velocity in a pipe",
  meterContinuous: "the meter's continuous maximum",
  meterSafe: "75 % of the meter's safe maximum",
  meterLoss: "loss in the meter",
  backflowMax: "the backflow preventer",
  masterValveMax: "the master valve",
  pumpBestEfficiency: "the pump's best point",
  pumpCurveEnd: "the end of the pump's curve",
  sensorMax: "the flow sensor's range",
  entered: "as entered",
};
