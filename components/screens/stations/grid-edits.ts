import { freshId } from "@/core/site-file/fresh-id";
import { clean } from "@/core/site-file/patch";
import { withoutPinsOf } from "@/core/site-file/pieces";
import type { SiteFile, Station } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { COLUMNS } from "./columns";
import { duplicateNumbers } from "./paste";

export type CellOutcome = { ok: true; file: SiteFile } | { ok: false; why: string };

/** One text into one column of several stations; refused whole, in words, where it may not stand there. */
export function putCells(
  file: SiteFile,
  rows: readonly Station[],
  column: number,
  text: string,
  units: UnitSystem,
): CellOutcome {
  const spec = COLUMNS[column];
  if (!spec) return { ok: false, why: "There is no such column." };
  const parsed = spec.parse(text, file, units);
  if (!parsed.ok)
    return {
      ok: false,
      why: `${rows[0] ? `Station ${rows[0].number}: ` : ""}${parsed.why}. The cell keeps its value.`,
    };
  const ids = new Set(rows.map((r) => r.id));
  const stations = file.stations.map((s) => (ids.has(s.id) ? clean<Station>({ ...s, ...parsed.values }) : s));
  if (spec.key === "number" || spec.key === "controllerId") {
    const before = duplicateNumbers(file.stations);
    const twice = duplicateNumbers(stations).find((n) => !before.includes(n));
    if (twice !== undefined)
      return {
        ok: false,
        why: `Number ${twice} is already used on that controller. Each station needs its own; the cell keeps its value.`,
      };
  }
  // Enter and the blur that follows it both bring the cell here; the second changes nothing and must not cost an undo.
  const same = stations.every(
    (s, i) => s === file.stations[i] || JSON.stringify(s) === JSON.stringify(file.stations[i]),
  );
  return { ok: true, file: same ? file : { ...file, stations } };
}

/** One more, like the last; null where there is no controller or mainline for it yet. */
export function addStation(file: SiteFile): SiteFile | null {
  const last = file.stations.at(-1);
  const controllerId = last?.controllerId ?? file.controllers[0]?.id;
  const mainlineId = last?.mainlineId ?? file.mainlines[0]?.id;
  if (!controllerId || !mainlineId) return null;
  const number = Math.max(0, ...file.stations.map((s) => s.number)) + 1;
  return {
    ...file,
    stations: [...file.stations, { id: freshId(file, "station"), number, name: "", controllerId, mainlineId }],
  };
}

/** Without these stations, and without what hangs on them: runs, wire readings, learned sets. */
export function dropStations(file: SiteFile, ids: ReadonlySet<string>): SiteFile {
  return withoutPinsOf(
    {
      ...file,
      stations: file.stations.filter((s) => !ids.has(s.id)),
      programs: file.programs.map((p) => ({ ...p, runs: p.runs.filter((r) => !ids.has(r.stationId)) })),
      ...(file.wireReadings ? { wireReadings: file.wireReadings.filter((r) => !ids.has(r.subjectId)) } : {}),
      ...(file.setRatios ? { setRatios: file.setRatios.filter((r) => !r.stationIds.some((id) => ids.has(id))) } : {}),
    },
    ids,
  );
}
