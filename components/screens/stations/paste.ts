import { clean } from "@/core/site-file/patch";
import Papa from "papaparse";

import { freshIds } from "@/core/site-file/fresh-id";
import { csvLine } from "@/core/exports/csv";
import type { SiteFile, Station } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { type Column, COLUMNS, matchHeadings } from "./columns";

export type CellChange = { station: string; column: string; from: string; to: string };
/** What a paste would do. `file` has every cell that is right; refused cells keep their value. */
export type Paste = {
  ok: true;
  file: SiteFile;
  added: number;
  /** Stations that were there and get another value. */
  changed: number;
  cells: CellChange[];
  refused: string[];
  /** Which heading went to which column, and which to none. */
  matched: { heading: string; column: string }[];
  ignored: string[];
};
export type Pasted = Paste | { ok: false; refused: string[] };

/**
 * Text from a spreadsheet into the stations: with a row of headings, rows are matched by number (and added when new); without, cells fill from the
 * cell given. Nothing is changed by it: it says what would be, cell by cell, for someone to take.
 */
export function pasteStations(
  file: SiteFile,
  text: string,
  at: { row: number; column: number },
  units: UnitSystem,
): Pasted {
  const rows = Papa.parse<string[]>(text.replace(/^\uFEFF/, "").replace(/\s+$/, ""), {
    delimiter: text.includes("\t") ? "\t" : "",
  }).data.filter((r) => r.some((c) => c.trim() !== ""));
  if (rows.length === 0) return { ok: false, refused: ["There is nothing to paste."] };
  const first = rows[0] ?? [];
  const headings = matchHeadings(first, units);
  const columns: (Column | null)[] = headings ?? COLUMNS.slice(at.column, at.column + first.length);
  const body = headings ? rows.slice(1) : rows;
  const numberAt = columns.findIndex((c) => c?.key === "number");
  const refused: string[] = [];
  const cells: CellChange[] = [];
  const stations = [...file.stations];
  const nextId = freshIds(file, "station");
  const placeOf = new Map(stations.map((s, i) => [s.number, i]));
  let largest = Math.max(0, ...stations.map((s) => s.number));
  const changed = new Set<number>();
  let added = 0;
  for (const [i, line] of body.entries()) {
    const where = `Row ${i + (headings ? 2 : 1)}`;
    const number = headings && numberAt >= 0 ? Number(line[numberAt]) : null;
    let index = number === null ? at.row + i : (placeOf.get(number) ?? -1);
    const fresh = index < 0 || index >= stations.length;
    if (fresh) {
      const controllerId = file.controllers[0]?.id;
      const mainlineId = file.mainlines[0]?.id;
      if (!controllerId || !mainlineId)
        return { ok: false, refused: ["A station needs a controller and a mainline. Add them on Waterworks first."] };
      index = stations.length;
      stations.push({ id: nextId(), number: ++largest, name: "", controllerId, mainlineId });
      added++;
    }
    for (const [j, cell] of line.entries()) {
      const column = columns[j];
      if (!column || (column.readOnly && headings)) continue;
      const before = stations[index] as Station;
      // A sheet that Presa wrote guards text that a spreadsheet would run as a formula.
      const parsed = column.parse(headings ? cell.replace(/^'(?=[=+\-@])/, "") : cell, file, units);
      if (!parsed.ok) {
        refused.push(`${where}, ${column.title(units)}: ${parsed.why}.`);
        continue;
      }
      const after = clean({ ...before, ...parsed.values });
      const [was, is] = [column.text(before, file, units), column.text(after, file, units)];
      if (was === is) continue;
      const twice =
        column.key === "number" || column.key === "controllerId"
          ? stations.findIndex(
              (s, n) => n !== index && s.number === after.number && s.controllerId === after.controllerId,
            )
          : -1;
      if (twice >= 0 && !(fresh && column.key === "number" && columns.some((c) => c?.key === "controllerId"))) {
        refused.push(`${where}, ${column.title(units)}: number ${after.number} is already used on that controller.`);
        continue;
      }
      stations[index] = after;
      if (fresh) continue;
      const named = file.stations[index] as Station;
      changed.add(index);
      cells.push({ station: `${named.number} ${named.name}`, column: column.title(units), from: was, to: is });
    }
  }
  const twice = duplicateNumbers(stations).filter((n) => !duplicateNumbers(file.stations).includes(n));
  if (twice.length > 0)
    return {
      ok: false,
      refused: [`Number ${twice.join(", ")} would be used twice on one controller. Each station needs its own.`],
    };
  const matched = headings
    ? first.flatMap((heading, j) => (columns[j] ? [{ heading, column: (columns[j] as Column).title(units) }] : []))
    : [];
  return {
    ok: true,
    file: { ...file, stations },
    added,
    changed: changed.size,
    cells,
    refused,
    matched,
    ignored: headings ? first.filter((h, j) => !columns[j] && h.trim() !== "") : [],
  };
}

export function duplicateNumbers(stations: Station[]): number[] {
  const seen = new Set<string>();
  const twice = new Set<number>();
  for (const s of stations) {
    const key = `${s.controllerId} ${s.number}`;
    if (seen.has(key)) twice.add(s.number);
    seen.add(key);
  }
  return [...twice];
}

/** All stations as CSV with the grid's headings; a spreadsheet finds nothing in it to run. */
export function stationsCsv(file: SiteFile, units: UnitSystem): string {
  return `${[COLUMNS.map((c) => c.title(units)), ...file.stations.map((s) => COLUMNS.map((c) => c.text(s, file, units)))].map(csvLine).join("\n")}\n`;
}
