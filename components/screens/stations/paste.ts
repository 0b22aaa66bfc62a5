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
  const first = rows[0];
  if (!first) return { ok: false, refused: ["There is nothing to paste."] };
  const headings = matchHeadings(first, units);
  const pasting = new Pasting(
    file,
    units,
    headings ?? COLUMNS.slice(at.column, at.column + first.length),
    headings && first,
  );
  for (const [i, line] of (headings ? rows.slice(1) : rows).entries())
    if (!pasting.take(line, i, at.row + i)) return { ok: false, refused: [NO_PLACE] };
  const { stations, added, changed, cells, refused } = pasting;
  const twice = duplicateNumbers(stations).filter((n) => !duplicateNumbers(file.stations).includes(n));
  if (twice.length > 0)
    return {
      ok: false,
      refused: [`Number ${twice.join(", ")} would be used twice on one controller. Each station needs its own.`],
    };
  const matched = (headings ?? []).flatMap((column, j) =>
    column ? [{ heading: first[j] ?? "", column: column.title(units) }] : [],
  );
  const ignored = headings ? first.filter((h, j) => !headings[j] && h.trim() !== "") : [];
  return { ok: true, file: { ...file, stations }, added, changed: changed.size, cells, refused, matched, ignored };
}

/** The units a heading names, `Design, gpm` or `Area (m²)`; null where it names none. */
export function unitsNamed(heading: string): UnitSystem | null {
  const unit = heading.toLowerCase();
  if (/\b(gpm|gal|psi|ft|feet|in\/h)\b|ft[²2]|gal\/min/.test(unit)) return "us";
  return /l\/min|\b(lpm|kpa|m|m2|mm\/h)\b|m²/.test(unit) ? "metric" : null;
}

const NO_PLACE = "A station needs a controller and a mainline. Add them on Waterworks first.";

/** A paste row by row: the stations as they come to be, what each cell did, and what was refused. */
class Pasting {
  readonly stations: Station[];
  readonly cells: CellChange[] = [];
  readonly refused: string[] = [];
  readonly changed = new Set<number>();
  added = 0;
  private readonly file: SiteFile;
  private readonly units: UnitSystem;
  private readonly columns: readonly (Column | null)[];
  /** The units each column is written in: those its heading names, else the site's. */
  private readonly unitsOf: readonly UnitSystem[];
  private readonly headed: boolean;
  private readonly numberAt: number;
  private readonly placeOf: Map<number, number>;
  private readonly nextId: () => string;
  private largest: number;

  constructor(
    file: SiteFile,
    units: UnitSystem,
    columns: readonly (Column | null)[],
    headings: readonly string[] | null,
  ) {
    this.file = file;
    this.units = units;
    this.columns = columns;
    this.unitsOf = columns.map((_, j) => unitsNamed(headings?.[j] ?? "") ?? units);
    this.headed = headings !== null;
    this.numberAt = headings ? columns.findIndex((c) => c?.key === "number") : -1;
    this.stations = [...file.stations];
    this.placeOf = new Map(file.stations.map((s, i) => [s.number, i]));
    this.nextId = freshIds(file, "station");
    this.largest = Math.max(0, ...file.stations.map((s) => s.number));
  }

  /** One row; `place` is where it falls when no number says so. False: there is nowhere to put a new station. */
  take(line: readonly string[], i: number, place: number): boolean {
    const named = this.numberAt >= 0 ? (this.placeOf.get(Number(line[this.numberAt])) ?? -1) : place;
    const fresh = named < 0 || named >= this.stations.length;
    const index = fresh ? this.add() : named;
    if (index === null) return false;
    const where = `Row ${i + (this.headed ? 2 : 1)}`;
    for (const [j, cell] of line.entries()) {
      const column = this.columns[j];
      if (!column || (column.readOnly && this.headed)) continue;
      const why = this.put(index, fresh, column, cell, this.unitsOf[j] ?? this.units);
      if (why !== null) this.refused.push(`${where}, ${column.title(this.units)}: ${why}.`);
    }
    return true;
  }

  private add(): number | null {
    const controllerId = this.file.controllers[0]?.id;
    const mainlineId = this.file.mainlines[0]?.id;
    if (!controllerId || !mainlineId) return null;
    this.added++;
    return this.stations.push({ id: this.nextId(), number: ++this.largest, name: "", controllerId, mainlineId }) - 1;
  }

  /** One cell; null when it is taken, or why it is not. */
  private put(index: number, fresh: boolean, column: Column, cell: string, written: UnitSystem): string | null {
    const { file, units } = this;
    const before = this.stations[index] as Station;
    // A sheet that Presa wrote guards text that a spreadsheet would run as a formula.
    const parsed = column.parse(this.headed ? cell.replace(/^'(?=[=+\-@])/, "") : cell, file, written);
    if (!parsed.ok) return parsed.why;
    const after = clean({ ...before, ...parsed.values });
    const [from, to] = [column.text(before, file, units), column.text(after, file, units)];
    if (from === to) return null;
    if (this.isTaken(index, fresh, column, after)) return `number ${after.number} is already used on that controller`;
    this.stations[index] = after;
    if (fresh) return null;
    const named = file.stations[index] as Station;
    this.changed.add(index);
    this.cells.push({ station: `${named.number} ${named.name}`, column: column.title(units), from, to });
    return null;
  }

  /** Another station has that number on that controller. A new one's controller may still come, in a later column. */
  private isTaken(index: number, fresh: boolean, column: Column, after: Station): boolean {
    if (column.key !== "number" && column.key !== "controllerId") return false;
    if (fresh && column.key === "number" && this.columns.some((c) => c?.key === "controllerId")) return false;
    return this.stations.some(
      (s, n) => n !== index && s.number === after.number && s.controllerId === after.controllerId,
    );
  }
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
