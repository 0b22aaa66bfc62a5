import { nth } from "../checked.ts";
import { csvRows, figureIn } from "../learn/csv-rows.ts";
import { FLOW_UNITS, unitInHeading } from "../learn/flow-units.ts";
import { instantIn, stationsIn } from "../learn/readings-sheet.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type Log, type LogRow, TOTAL } from "./stretches.ts";

export type LogProblem = { line: number; message: string };

/**
 * A log as CSV (site-file#additions): `time` (or `at`), the flow of the whole site (`flow L/min`) or of each sensor (`flow SENSORID L/min`, or `POCID L/min` as `presa simulate`
 * writes it), and `station`: numbers joined by +, empty where nothing is open. Other columns are passed over.
 *
 * @returns the first line that cannot be read, and why; nothing is guessed
 */
export function readLog(site: SiteFile, text: string): { ok: true; log: Log } | { ok: false; problem: LogProblem } {
  const rows = csvRows(text);
  const headings = rows[0] ?? [];
  const columns = columnsIn(site, headings);
  if (typeof columns === "string") return { ok: false, problem: { line: 1, message: columns } };
  const { time, station, flows } = columns;
  const place = new Map(site.stations.map((s, i) => [s.id, i]));
  const open = new Map<string, number[] | null>();
  const read: LogRow[] = [];
  for (const [i, row] of rows.entries()) {
    if (i === 0) continue;
    const refuse = (message: string): { ok: false; problem: LogProblem } => ({
      ok: false,
      problem: { line: i + 1, message },
    });
    const t = instantIn(site.site.timeZone, row[time] ?? "", "");
    if (t === null) return refuse(`"${row[time] ?? ""}" is not an instant. Write 2026-07-14T22:00:05+02:00.`);
    if (t < (read.at(-1)?.t ?? t)) return refuse("It is earlier than the line before. Sort the log by time.");
    const flow = flows.map(({ column, lpm }) => (row[column] ? figureIn(nth(row, column)) * lpm : null));
    if (flow.some((f) => f !== null && !(f >= 0))) return refuse("A flow is no figure, or under 0.");
    const named = row[station] ?? "";
    if (!open.has(named)) open.set(named, stationsIn(site, named)?.map((id) => place.get(id) as number) ?? null);
    const stations = open.get(named);
    if (!stations) return refuse(`There is no station "${named}" on this site.`);
    read.push({ t, flow, open: stations });
  }
  return { ok: true, log: { keys: flows.map((f) => f.key), rows: read } };
}

type Columns = { time: number; station: number; flows: { key: string; column: number; lpm: number }[] };

function columnsIn(site: SiteFile, headings: readonly string[]): Columns | string {
  const at = (name: RegExp): number => headings.findIndex((h) => name.test(h));
  const [time, station] = [at(/^(time|at)$/i), at(/^stations?$/i)];
  if (time < 0) return 'No column is named "time".';
  if (station < 0) return 'No column is named "station".';
  const known = new Set([
    ...site.pocs.flatMap((p) => [p.id, ...p.devices.map((d) => d.id)]),
    ...site.mainlines.flatMap((m) => (m.devices ?? []).map((d) => d.id)),
  ]);
  const flows = headings.flatMap((heading, column) => {
    const [, id] = /^(?:flow\s+)?(.*?)\s*\(?(?:l\/min|gal\/min|gpm|lpm|m3\/h|m³\/h)\)?$/i.exec(heading) ?? [];
    const lpm = FLOW_UNITS[unitInHeading(heading) ?? "L/min"];
    if (/^flow\b/i.test(heading) && (id === undefined || id === "" || /^flow$/i.test(id)))
      return [{ key: TOTAL, column, lpm }];
    return id !== undefined && known.has(id) ? [{ key: id, column, lpm }] : [];
  });
  if (flows.length === 0)
    return 'No column is a flow of this site: "flow L/min", or "flow SENSORID L/min" with the id of a sensor.';
  return { time, station, flows };
}
