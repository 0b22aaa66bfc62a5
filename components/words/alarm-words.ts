/** What an alarm is about, and what was done about it, in the words of the interface. */
export const KIND_WORDS: Record<string, string> = {
  stationHigh: "station high",
  stationLow: "station low",
  mainline: "mainline",
  supply: "supply",
  burst: "burst",
  offSchedule: "off schedule",
  notFoundAgain: "not found again",
  pumpNoFlow: "pump without flow",
  sensor: "sensor",
  pressureLow: "pressure low",
  pressureHigh: "pressure high",
};
export const ACTION_WORDS: Record<string, string> = {
  acknowledged: "acknowledged",
  assigned: "assigned to",
  cause: "cause:",
  note: "note:",
  photo: "picture",
  cleared: "cleared:",
  reopened: "opened again:",
};
