import { sensorRange } from "../sensors/sensor-range.ts";
import type { Device } from "../site-file/schema.ts";
import { showQuantity, type UnitSystem } from "../units/units.ts";
import { type CeilingRule, insideDiameterMm, USUAL_MAX_VELOCITY_MS } from "./ceilings.ts";

/** The data that a rule's figure rests on, in words: what to check on the data sheet when it looks wrong. */
export function ruleData(
  rule: CeilingRule,
  device: Device | undefined,
  staticKpa: number | null,
  units: UnitSystem,
): string {
  const flow = (lpm: number): string => showQuantity(lpm, "flow", units);
  switch (device?.kind) {
    case "pipe": {
      const bore = insideDiameterMm(device);
      return bore === null
        ? ""
        : `${showQuantity(device.maxVelocityMs ?? USUAL_MAX_VELOCITY_MS, "velocity", units)} in ${showQuantity(bore, "diameter", units)} inside${device.insideDiameterMm === undefined ? "" : ", measured"}`;
    }
    case "meter":
      if (rule === "meterSafe") return `75 % of ${flow(device.safeMaxLpm ?? 0)}`;
      if (rule === "meterLoss" && device.lossKpaAt && staticKpa !== null)
        return `10 % of ${showQuantity(staticKpa, "pressure", units)}; it loses ${showQuantity(device.lossKpaAt.lossKpa, "pressure", units)} at ${flow(device.lossKpaAt.flowLpm)}`;
      return "data sheet, used in full";
    case "pump":
      return `${rule === "pumpBestEfficiency" ? `115 % of ${flow(device.bestEfficiencyLpm ?? 0)}` : "last point of its curve"}${(device.parallel ?? 1) > 1 ? `, × ${device.parallel}` : ""}`;
    case "flowSensor": {
      if (device.maxLpm !== undefined) return "as stated";
      const bore =
        device.insideDiameterMm ?? (device.output.type === "frequency" ? device.output.insideDiameterMm : undefined);
      return bore === undefined || sensorRange(device).maxLpm === null
        ? ""
        : `${showQuantity(device.vMaxMs ?? 6, "velocity", units)} in ${showQuantity(bore, "diameter", units)} inside`;
    }
    case "backflow":
    case "masterValve":
      return "data sheet";
    default:
      return rule === "yield" ? "permitted or tested" : "";
  }
}
