import Papa from "papaparse";
import { clean } from "@/components/waterworks/edits";
import { freshIds } from "@/components/workspace/fresh-id";
import type { SiteFile, Station } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { type Column, COLUMNS, matchHeadings } from "./columns";

export type Pasted = { ok: true; file: SiteFile; changed: number; added: number } | { ok: false; refused: string[] };

/**
 * Text from a spreadsheet into the stations: with a row of headings, rows are matched by number (and added when new); without, cells fill from the
 * cell given. All of it is taken, or none, with every refused cell named.
 */
export function pasteStations(file: SiteFile, text: string, at: { row: number; column: number }, units: UnitSystem): Pasted {
  const rows = Papa.parse<string[]>(text.replace(/\s+$/, ""), { delimiter: text.includes("\t") ? "\t" : "" }).data.filter((r) => r.some((c) => c.trim() !== ""));
  if (rows.length === 0) return { ok: false, refused: ["There is nothing to paste."] };
  const headings = matchHeadings(rows[0] ?? [], units);
  const columns: (Column | null)[] = headings ?? COLUMNS.slice(at.column, at.column + (rows[0]?.length ?? 0));
  const body = headings ? rows.slice(1) : rows;
  const numberAt = columns.findIndex((c) => c?.key === "number");
  const refused: string[] = [];
  const stations = [...file.stations];
  const nextId = freshIds(file, "station");
  const placeOf = new Map(stations.map((s, i) => [s.number, i]));
  let largest = Math.max(0, ...stations.map((s) => s.number));
  let changed = 0;
  let added = 0;
  for (const [i, cells] of body.entries()) {
    const where = `Row ${i + (headings ? 2 : 1)}`;
    const number = headings && numberAt >= 0 ? Number(cells[numberAt]) : null;
    let index = number === null ? at.row + i : (placeOf.get(number) ?? -1);
    if (index < 0 || index >= stations.length) {
      const controllerId = file.controllers[0]?.id;
      const mainlineId = file.mainlines[0]?.id;
      if (!controllerId || !mainlineId) return { ok: false, refused: ["A station needs a controller and a mainline. Add them on Waterworks first."] };
      index = stations.length;
      stations.push({ id: nextId(), number: ++largest, name: "", controllerId, mainlineId });
      added++;
    } else changed++;
    for (const [j, cell] of cells.entries()) {
      const column = columns[j];
      if (!column || (column.key === "learned" && headings)) continue;
      const parsed = column.parse(cell, file, units);
      if (parsed.ok) stations[index] = clean({ ...(stations[index] as Station), ...parsed.values });
      else refused.push(`${where}, ${column.title(units)}: ${parsed.why}.`);
    }
  }
  const twice = duplicateNumbers(stations);
  if (twice.length > 0) refused.push(`Number ${twice.join(", ")} would be used twice on one controller. Each station needs its own.`);
  return refused.length > 0 ? { ok: false, refused } : { ok: true, file: { ...file, stations }, changed, added };
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
