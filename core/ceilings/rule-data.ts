import { sensorRange } from "../sensors/sensor-range.ts";
import type { Device, DeviceOf } from "../site-file/schema.ts";
import { showQuantity, type UnitSystem } from "../units/units.ts";
import { type CeilingRule, insideDiameterMm, USUAL_MAX_VELOCITY_MS } from "./ceilings.ts";

/** A sensor without a figure of its own reads up to this velocity (handbook#4-sensors). */
const USUAL_SENSOR_MAX_MS = 6;

/** The data that a rule's figure rests on, in words: what to check on the data sheet when it looks wrong. */
export function ruleData(
  rule: CeilingRule,
  device: Device | undefined,
  staticKpa: number | null,
  units: UnitSystem,
): string {
  switch (device?.kind) {
    case "pipe":
      return pipeData(device, units);
    case "meter":
      return meterData(rule, device, staticKpa, units);
    case "pump":
      return pumpData(rule, device, units);
    case "flowSensor":
      return sensorData(device, units);
    case "backflow":
    case "masterValve":
      return "data sheet";
    default:
      return rule === "yield" ? "permitted or tested" : "";
  }
}

function inBore(velocityMs: number, boreMm: number, units: UnitSystem): string {
  return `${showQuantity(velocityMs, "velocity", units)} in ${showQuantity(boreMm, "diameter", units)} inside`;
}

function pipeData(pipe: DeviceOf<"pipe">, units: UnitSystem): string {
  const bore = insideDiameterMm(pipe);
  if (bore === null) return "";
  const words = inBore(pipe.maxVelocityMs ?? USUAL_MAX_VELOCITY_MS, bore, units);
  return pipe.insideDiameterMm === undefined ? words : `${words}, measured`;
}

function meterData(rule: CeilingRule, meter: DeviceOf<"meter">, staticKpa: number | null, units: UnitSystem): string {
  const { safeMaxLpm, lossKpaAt } = meter;
  if (rule === "meterSafe") return `75 % of ${showQuantity(safeMaxLpm ?? 0, "flow", units)}`;
  if (rule === "meterLoss" && lossKpaAt && staticKpa !== null)
    return `10 % of ${showQuantity(staticKpa, "pressure", units)}; it loses ${showQuantity(lossKpaAt.lossKpa, "pressure", units)} at ${showQuantity(lossKpaAt.flowLpm, "flow", units)}`;
  return "data sheet, used in full";
}

function pumpData(rule: CeilingRule, pump: DeviceOf<"pump">, units: UnitSystem): string {
  const of =
    rule === "pumpBestEfficiency"
      ? `115 % of ${showQuantity(pump.bestEfficiencyLpm ?? 0, "flow", units)}`
      : "last point of its curve";
  return (pump.parallel ?? 1) > 1 ? `${of}, × ${pump.parallel}` : of;
}

function sensorData(sensor: DeviceOf<"flowSensor">, units: UnitSystem): string {
  if (sensor.maxLpm !== undefined) return "as stated";
  const { output } = sensor;
  const bore = sensor.insideDiameterMm ?? (output.type === "frequency" ? output.insideDiameterMm : undefined);
  if (bore === undefined || sensorRange(sensor).maxLpm === null) return "";
  return inBore(sensor.vMaxMs ?? USUAL_SENSOR_MAX_MS, bore, units);
}
