/** The rules of ceilings in words (handbook 5). */
export const RULE_WORDS: Record<string, string> = {
  yield: "source yield", pipeVelocity: "pipe velocity", meterContinuous: "meter, continuous rating", meterSafe: "meter, 75 % of safe maximum",
  meterLoss: "meter loss, 10 % of pressure", backflowMax: "backflow preventer", masterValveMax: "master valve", pumpBestEfficiency: "pump, 115 % of best efficiency",
  pumpCurveEnd: "pump, end of curve", sensorMax: "sensor, largest reading", entered: "entered by hand",
};
export const DEVICE_WORDS: Record<string, string> = {
  meter: "Water meter", backflow: "Backflow preventer", masterValve: "Master valve", pump: "Pump", pipe: "Pipe", fixedLoss: "Filter or fixed loss",
  regulator: "Pressure regulator", pressureSensor: "Pressure sensor", flowSensor: "Flow sensor",
};
