/** An alarm as the server sends it. */
export type Alarm = {
  id: string;
  site_id: string;
  site_name: string;
  at: string;
  kind: string;
  subject_id: string;
  measured_lpm: number;
  expected_lpm: number;
  message: string;
  locked: string[];
  state: "open" | "acknowledged" | "cleared";
  cause: string | null;
  assigned_to: string | null;
  assigned_to_name: string | null;
  acknowledged_at: string | null;
  acknowledged_by_name: string | null;
  cleared_at: string | null;
  cleared_by_name: string | null;
  night_lost_l: number | null;
  night_unwatered_min: number | null;
};
export type AlarmEntry = {
  id: string;
  alarm_id: string;
  at: string;
  made_by_name: string;
  action: string;
  words: string;
  has_photo: boolean;
};
export type Person = { id: string; name: string };

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
