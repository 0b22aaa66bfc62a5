import { nth } from "../checked.ts";
import { type EpochS, instantOf } from "../dates/wall-time.ts";
import { csvLine } from "../exports/csv.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { csvRows, figureIn, guessColumns } from "./csv-rows.ts";
import { FLOW_UNITS, type FlowUnit, unitInHeading } from "./flow-units.ts";

export const READING_COLUMNS = ["time", "flow", "pulses", "station", "event", "skip"] as const;
export type ReadingColumn = (typeof READING_COLUMNS)[number];
/** A recorder's log as it came, with a guess at its columns. */
export type ReadingsSheet = { headings: string[]; rows: string[][]; columns: ReadingColumn[]; unit: FlowUnit | null };
export type SeriesOptions = {
  columns: ReadingColumn[];
  unit: FlowUnit;
  /** Litres of one pulse, where pulses were recorded. */
  litresPerPulse?: number;
  /** The date of times without one. */
  date: string;
};
/** One row: what flowed, L/min, or the pulses since the row before. */
export type SeriesRow = { t: EpochS; lpm: number | null; pulses: number | null };
export type Segment = { stationIds: string[]; from: EpochS; to: EpochS };
export type Series = { rows: SeriesRow[]; segments: Segment[]; refused: { line: number; problem: string }[] };

const LARGEST = 200_000;
const GUESSES: [Exclude<ReadingColumn, "skip">, RegExp][] = [
  ["time", /time|zeit|date|stamp|^t$|seconds/i],
  ["event", /event|mark|action|note/i],
  ["pulses", /pulse|count/i],
  ["station", /station|valve|zone|no\.?$|number/i],
  ["flow", /flow|reading|rate|lpm|gpm|l\/min|m3|m³|q\b/i],
];

/** Text of a log → its rows and what its columns seem to be; the first row is headings when it has no figure in it. */
export function readingsSheet(text: string): { ok: true; sheet: ReadingsSheet } | { ok: false; problem: string } {
  const rows = csvRows(text);
  const first = rows[0];
  if (!first || rows.length < 2)
    return {
      ok: false,
      problem: "There is nothing to read: a log has a line of headings, then a line for each reading.",
    };
  if (rows.length > LARGEST)
    return {
      ok: false,
      problem: `The log has ${rows.length.toLocaleString("en")} lines; at most ${LARGEST.toLocaleString("en")} are read at once. Split it by nights.`,
    };
  const headed = first.every((c) => !/^[\d.,:+-]+$/.test(c));
  const headings = headed ? first : first.map((_, i) => `column ${i + 1}`);
  const columns = guessColumns(headings, GUESSES);
  const flow = columns.indexOf("flow");
  return {
    ok: true,
    sheet: {
      headings,
      rows: headed ? rows.slice(1) : rows,
      columns,
      unit: flow < 0 ? null : unitInHeading(nth(headings, flow)),
    },
  };
}

/**
 * The series of a log and when each station was open in it: by a column that names what is open, or by marks like "open 12" and "close 12".
 * A row that cannot be read is refused with its line; the others stand.
 */
export function readingSeries(
  site: SiteFile,
  sheet: ReadingsSheet,
  options: SeriesOptions,
): { ok: true; series: Series } | { ok: false; problem: string } {
  const columns = columnsOf(options);
  const missing = missingColumn(columns, options);
  if (missing !== null) return { ok: false, problem: missing };
  const rows: SeriesRow[] = [];
  const refused: Series["refused"] = [];
  const valves = new OpenValves();
  for (const [i, row] of sheet.rows.entries()) {
    const read = readRow(site, row, columns, options, rows.at(-1)?.t);
    const open = typeof read === "string" ? read : openAt(site, row, columns, valves.open);
    const problem = [read, open].find((r) => typeof r === "string");
    if (typeof problem === "string") refused.push({ line: i + 2, problem });
    if (typeof read === "string" || typeof open === "string") continue;
    valves.change(read.t, open);
    if (read.lpm !== null || read.pulses !== null) rows.push(read);
  }
  const last = rows.at(-1)?.t;
  if (last === undefined) return { ok: false, problem: `No line could be read. ${refused[0]?.problem ?? ""}` };
  valves.change(last + 1, []);
  return { ok: true, series: { rows, segments: valves.segments, refused } };
}

type Columns = Record<Exclude<ReadingColumn, "skip">, number>;

/** Place of each column in a row, −1 where there is none. */
function columnsOf({ columns }: SeriesOptions): Columns {
  const at = (column: ReadingColumn): number => columns.indexOf(column);
  return { time: at("time"), flow: at("flow"), pulses: at("pulses"), station: at("station"), event: at("event") };
}

function missingColumn({ time, flow, pulses, station, event }: Columns, options: SeriesOptions): string | null {
  if (time < 0) return "No column is the time. Choose it.";
  if (flow < 0 && pulses < 0) return "No column is the flow or the pulses. Choose one.";
  if (station < 0 && event < 0)
    return "No column says which station was open. Choose the station's column, or the one with marks like “open 12”.";
  return flow < 0 && !options.litresPerPulse ? "Say how many litres one pulse is." : null;
}

/** What was open, row by row, as stretches of time. */
class OpenValves {
  readonly segments: Segment[] = [];
  open: string[] = [];
  private since = Number.NEGATIVE_INFINITY;

  change(t: EpochS, next: string[]): void {
    if (next.join("\n") === this.open.join("\n")) return;
    if (this.open.length > 0) this.segments.push({ stationIds: this.open, from: this.since, to: t });
    this.open = next;
    this.since = t;
  }
}

/** Time and figures of one row, or why they cannot be read. */
function readRow(
  site: SiteFile,
  row: string[],
  { time, flow, pulses }: Columns,
  options: SeriesOptions,
  before: EpochS | undefined,
): SeriesRow | string {
  const t = instantIn(site.site.timeZone, row[time] ?? "", options.date);
  if (t === null) return `“${row[time] ?? ""}” is not a time. Write 2026-07-14 02:31:05, 02:31:05, or seconds.`;
  if (before !== undefined && t < before) return "It is earlier than the line before. Sort the log by time.";
  const figure = (at: number): number | null => (at < 0 || row[at] === "" ? null : figureIn(row[at] ?? ""));
  const [lpm, count] = [figure(flow), figure(pulses)];
  if ([lpm, count].some((v) => Number.isNaN(v) || (v ?? 0) < 0))
    return `“${row[flow] ?? row[pulses] ?? ""}” is not a flow or a number of pulses.`;
  return { t, lpm: lpm === null ? null : lpm * FLOW_UNITS[options.unit], pulses: count };
}

const MARK =
  /^(open|opens|opened|on|start|starts|started|close|closes|closed|off|stop|stops|stopped|end)\b[\s:]*(?:station|valve)?\s*(.*)$/i;

/** What is open from a row on, or why that cannot be told. */
function openAt(site: SiteFile, row: string[], { station, event }: Columns, open: string[]): string[] | string {
  if (station >= 0)
    return stationsIn(site, row[station] ?? "") ?? `There is no station “${row[station]}” on this site.`;
  const text = row[event] ?? "";
  if (text === "") return open;
  const [, verb, named] = MARK.exec(text) ?? [];
  const ids = verb === undefined ? null : stationsIn(site, named ?? "");
  if (verb === undefined || ids === null) return `“${text}” is not a mark like “open 12” or “close 12”.`;
  const others = open.filter((id) => !ids.includes(id));
  if (/^(open|on|start)/i.test(verb)) return [...others, ...ids];
  // "close" without a station closes all that are open.
  return ids.length === 0 ? [] : others;
}

/** Numbers, names or ids, several joined by + or ;. Empty: none. Null: one of them is not on this site. */
export function stationsIn(site: SiteFile, text: string): string[] | null {
  const parts = text
    .split(/[+;]/)
    .map((p) => p.trim())
    .filter((p) => p !== "" && p !== "-" && p !== "0");
  const found = parts.map(
    (p) =>
      site.stations.find((s) => s.id === p || s.name.toLowerCase() === p.toLowerCase()) ??
      site.stations.find((s) => String(s.number) === p.replace(/^#/, "")),
  );
  return found.every((s): s is Station => s !== undefined) ? [...new Set(found.map((s) => s.id))] : null;
}

/** An instant with or without zone and date, or plain seconds from midnight of the date. */
export function instantIn(timeZone: string, text: string, date: string): EpochS | null {
  if (/(Z|[+-]\d{2}:?\d{2})$/.test(text) && /^\d{4}-/.test(text)) {
    const at = Date.parse(text);
    return Number.isNaN(at) ? null : Math.floor(at / 1000);
  }
  const local = /^(?:(\d{4}-\d{2}-\d{2})[T ])?(\d{1,2}):(\d{2})(?::(\d{2})(?:\.\d+)?)?$/.exec(text);
  if (local) {
    const [, day, h, m, s] = local;
    if (Number(h) > 23 || Number(m) > 59 || Number(s ?? 0) > 59) return null;
    try {
      return instantOf(timeZone, day ?? date, `${(h as string).padStart(2, "0")}:${m}`) + Number(s ?? 0);
    } catch {
      return null;
    }
  }
  return /^\d+(\.\d+)?$/.test(text) ? instantOf(timeZone, date, "00:00") + Math.floor(Number(text)) : null;
}

/** A recorded series as CSV, in the form that is read back: local time, flow, the stations open. */
export function readingsCsv(rows: readonly { time: string; lpm: number; stations: string }[]): string {
  return `${csvLine(["time", "flow L/min", "station"])}\n${rows.map((r) => csvLine([r.time, Math.round(r.lpm * 100) / 100, r.stations])).join("\n")}\n`;
}
