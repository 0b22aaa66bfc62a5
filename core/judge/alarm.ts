/** What can be wrong; its subject by kind is in site-file#simulate. */
export type AlarmKind =
  | "stationHigh"
  | "stationLow"
  | "mainline"
  | "supply"
  | "burst"
  | "offSchedule"
  | "notFoundAgain"
  | "pumpNoFlow"
  | "sensor"
  | "pressureLow"
  | "pressureHigh";

/** What was particular about it, for its words. */
export type AlarmNote =
  | "highInARow"
  | "searchedBefore"
  | "sensorBySupply"
  | "notOnlyOne"
  | "stopStation"
  | "stopAll"
  | "controllerSilent"
  | "onlyTold";

/** One alarm; `at` in epoch seconds. */
export type Alarm = {
  at: number;
  kind: AlarmKind;
  subjectId: string;
  measuredLpm: number;
  expectedLpm: number;
  note?: AlarmNote;
  /** What a pressure sensor read, and its limit. */
  kPa?: { measured: number; limit: number };
};
