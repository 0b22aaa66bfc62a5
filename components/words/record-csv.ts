import type { CounterView, MeterLog } from "@/contracts/meters";
import type { SiteDue, Todo, VisitView } from "@/contracts/visits";
import { PROBLEM_WORDS, type WalkView } from "@/contracts/walks";
import { csvLine } from "@/core/exports/csv";
import { subjectName } from "@/core/judge/alarm-words";
import type { SiteFile } from "@/core/site-file/schema";
import { DUTY_KINDS } from "@/core/visits/duties";
import { type CheckLine, type CheckUnit, VALVE_WORDS } from "@/core/wiring/valve-check";
import type { Line } from "./timeline-words";
import { LOOKED_WORDS } from "./visit-words";

/** Tables of the record as CSV, for other programs: instants in ISO 8601, flows in L/min, volumes in m³ whatever units the site has. */
type Cells = (string | number | null)[];
const table = (head: string[], rows: Cells[]): string => `${[head, ...rows].map((r) => csvLine(r)).join("\n")}\n`;
const rounded = (value: number, digits = 3): number => Number(value.toFixed(digits));

/** What was looked at on visits, a line each. */
export const visitsCsv = (visits: readonly VisitView[]): string =>
  table(
    ["visit", "begun", "ended", "who", "line", "state", "note", "photographs", "at"],
    visits.flatMap((v) =>
      v.lines.map((line): Cells => {
        const look = v.looked.find((l) => l.lineId === line.id);
        const came: Cells = look
          ? [LOOKED_WORDS[look.state], look.note, look.photoIds.length, look.at]
          : ["", "", null, null];
        return [v.name, v.begunAt, v.endedAt, v.by, line.words, ...came];
      }),
    ),
  );

/** What came of stations on walks, a line each. */
export const walksCsv = (walks: readonly WalkView[], site: SiteFile): string =>
  table(
    ["begun", "ended", "who", "station", "state", "problem", "read L/min", "note", "photographs", "at"],
    walks.flatMap((w) =>
      w.stationIds.map((id): Cells => {
        const look = w.looked.find((l) => l.stationId === id);
        const came: Cells = look
          ? [
              look.state,
              look.problem && PROBLEM_WORDS[look.problem],
              look.readLpm,
              look.note,
              look.photoIds.length,
              look.at,
            ]
          : ["", null, null, "", null, null];
        return [w.begunAt, w.endedAt, w.by, subjectName(site, id), ...came];
      }),
    ),
  );

export const todosCsv = (todos: readonly Todo[], site: SiteFile): string =>
  table(
    ["to do", "of", "who", "by", "entered", "entered by", "done", "done by", "what was done"],
    todos.map((t) => [
      t.words,
      t.subjectId && subjectName(site, t.subjectId),
      t.owner,
      t.due,
      t.madeAt,
      t.madeBy,
      t.done?.at ?? null,
      t.done?.by ?? null,
      t.done?.words ?? null,
    ]),
  );

/** What is due anew, and what was noted as done. */
export const dueCsv = ({ due, done }: SiteDue, site: SiteFile): string =>
  table(
    ["what", "of", "done last", "due", "noted by", "words"],
    [
      ...due.map((d): Cells => [DUTY_KINDS[d.duty].words, d.name, d.last, d.on, null, null]),
      ...done.map(
        (d): Cells => [
          DUTY_KINDS[d.duty].words,
          d.subjectId && subjectName(site, d.subjectId),
          d.on,
          null,
          d.by,
          d.words,
        ],
      ),
    ],
  );

export const metersCsv = (meters: readonly MeterLog[], nameOf: (id: string) => string): string =>
  table(
    ["meter", "read", "by", "stands at m3", "begins", "since before m3", "sensors m3", "difference m3", "note"],
    meters.flatMap((m) =>
      m.readings.map(({ at, by, m3, begins, between, note }): Cells => {
        const since: Cells = between
          ? [rounded(between.meterM3), rounded(between.sensorM3), rounded(between.meterM3 - between.sensorM3)]
          : [null, null, null];
        return [nameOf(m.meterId), at, by, rounded(m3), begins ? "yes" : "", ...since, note];
      }),
    ),
  );

export const countersCsv = (counters: readonly CounterView[], nameOf: (id: string) => string): string =>
  table(
    ["sensor", "counter", "m3", "since", "begun by", "why"],
    counters.map((c) => [nameOf(c.sensorId), c.counter, rounded(c.litres / 1000), c.since, c.by, c.reason]),
  );

/** A check of valves by wire beside the one before it. */
export const valveCheckCsv = (lines: readonly CheckLine[], unit: CheckUnit): string =>
  table(
    ["station", `read ${unit}`, `before ${unit}`, "means", "look at next"],
    lines.map((l) => [
      `${l.station.number} ${l.station.name}`,
      l.value,
      l.before,
      l.meaning && VALVE_WORDS[l.meaning].words,
      l.meaning && l.meaning !== "good" ? VALVE_WORDS[l.meaning].next : null,
    ]),
  );

export const timelineCsv = (lines: readonly (Line & { at: string; sort: string })[]): string =>
  table(
    ["at", "what", "title", "words", "open"],
    lines.map((l) => [l.at, l.sort, l.title, l.words, l.open ? "open" : ""]),
  );
