import type { FaultKind } from "./faults.ts";

/** What each fault is called. */
export const FAULT_WORDS: Record<FaultKind, string> = {
  brokenOutlet: "broken outlet",
  brokenLateral: "broken lateral",
  mainlineBreak: "mainline break",
  stuckOpen: "station stuck open",
  stuckClosed: "station does not open",
  clogged: "station clogged",
  supplyClosed: "supply closed",
  pumpFailed: "pump failed",
  sensorDead: "sensor dead",
  sensorNoise: "sensor noise",
  wrongK: "wrong K",
  masterValveStuckOpen: "master valve does not close",
  handWatering: "hand watering",
  pressureDrop: "pressure drop",
  wrongValve: "wired to another's valve",
  alsoOpens: "opens another's valve too",
};
