import { localIso } from "../dates/wall-time.ts";
import { csvLine } from "./csv.ts";

/** One alarm as it goes out: names instead of ids, flows in L/min, litres and minutes of its night. */
export type AlarmLine = {
  siteName: string;
  timeZone: string;
  at: string;
  kind: string;
  subject: string;
  measuredLpm: number | null;
  expectedLpm: number | null;
  state: string;
  assignedTo: string | null;
  cause: string | null;
  acknowledgedBy: string | null;
  clearedBy: string | null;
  clearedAt: string | null;
  locked: string[];
  nightLostL: number | null;
  nightUnwateredMin: number | null;
  departedMin: number | null;
  departedL: number | null;
};

/** Alarms as CSV, one line each, instants where their sites are. */
export function alarmsCsv(alarms: readonly AlarmLine[]): string {
  const local = (timeZone: string, at: string): string => localIso(timeZone, Math.floor(Date.parse(at) / 1000));
  const head = csvLine([
    "site",
    "at",
    "kind",
    "subject",
    "read L/min",
    "expected L/min",
    "state",
    "assigned to",
    "cause",
    "acknowledged by",
    "cleared by",
    "cleared at",
    "locked out",
    "litres lost that night",
    "minutes not watered that night",
    "minutes outside limits",
    "litres over expected",
  ]);
  const lines = alarms.map((a) =>
    csvLine([
      a.siteName,
      local(a.timeZone, a.at),
      a.kind,
      a.subject,
      a.measuredLpm,
      a.expectedLpm,
      a.state,
      a.assignedTo,
      a.cause,
      a.acknowledgedBy,
      a.clearedBy,
      a.clearedAt && local(a.timeZone, a.clearedAt),
      a.locked.join("; "),
      a.nightLostL,
      a.nightUnwateredMin,
      a.departedMin,
      a.departedL,
    ]),
  );
  return `${[head, ...lines].join("\n")}\n`;
}
