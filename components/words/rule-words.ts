import type { Load } from "@/core/wiring/load";

/** The rules of ceilings in words (handbook#5-ceilings). */
export const RULE_WORDS: Record<string, string> = {
  yield: "source yield",
  pipeVelocity: "pipe velocity",
  meterContinuous: "meter, continuous rating",
  meterSafe: "meter, 75 % of safe maximum",
  meterLoss: "meter loss, 10 % of pressure",
  backflowMax: "backflow preventer",
  masterValveMax: "master valve",
  pumpBestEfficiency: "pump, 115 % of best efficiency",
  pumpCurveEnd: "pump, end of curve",
  sensorMax: "sensor, largest reading",
  entered: "entered by hand",
};
/** The same where space is short. */
export const SHORT_RULE_WORDS: Record<string, string> = {
  yield: "yield",
  pipeVelocity: "velocity",
  meterContinuous: "meter",
  meterSafe: "meter, 75 %",
  meterLoss: "meter loss",
  backflowMax: "backflow",
  masterValveMax: "MV",
  pumpBestEfficiency: "pump, 115 %",
  pumpCurveEnd: "end of curve",
  sensorMax: "sensor",
  entered: "by hand",
};
export const DEVICE_WORDS: Record<string, string> = {
  meter: "Water meter",
  backflow: "Backflow preventer",
  masterValve: "Master valve",
  pump: "Pump",
  pipe: "Pipe",
  fixedLoss: "Filter or fixed loss",
  regulator: "Pressure regulator",
  pressureSensor: "Pressure sensor",
  flowSensor: "Flow sensor",
};

/** A controller's load in one sentence. */
export function loadWords(load: Load): string {
  const parts = [
    `${load.stationsAtOnce} station${load.stationsAtOnce === 1 ? "" : "s"} at once ${Math.round(load.solenoidsMa)} mA`,
    ...(load.masterValvesMa > 0 ? [`master valves ${Math.round(load.masterValvesMa)} mA`] : []),
    ...(load.pumpRelaysMa > 0 ? [`pump relays ${Math.round(load.pumpRelaysMa)} mA`] : []),
  ];
  const { budgetMa } = load;
  const within = `${budgetMa !== null && load.totalMa > budgetMa ? "over its" : "of"} ${budgetMa} mA`;
  const against = budgetMa === null ? "its budget is not entered" : within;
  return `Load: ${parts.join(" + ")}${parts.length > 1 ? ` = ${Math.round(load.totalMa)} mA` : ""}, ${against}${load.typical ? "; some at typical figures" : ""}.`;
}
