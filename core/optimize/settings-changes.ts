import { startsOn } from "../site-file/starts.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

/** One setting to change at a controller, to be taken or left by itself. `moves` are stations taken into other programs, all together. */
export type SettingChange =
  | { id: string; kind: "order"; programId: string; moved: number }
  | { id: string; kind: "priority" | "atOnce"; programId: string; from: number; to: number }
  | { id: string; kind: "starts"; programId: string; from: string[]; to: string[] }
  | { id: string; kind: "moves"; stations: { stationId: string; fromProgramId: string; toProgramId: string }[] };

/** What has to be changed at the controllers to get from one site's programs to the other's. */
export function settingChanges(before: SiteFile, after: SiteFile): SettingChange[] {
  const changes: SettingChange[] = [];
  const moves = movesOf(before, after);
  if (moves.length > 0) changes.push({ id: "moves", kind: "moves", stations: moves });
  for (const p of before.programs) {
    const q = after.programs.find((x) => x.id === p.id);
    if (!q) continue;
    if (sameStations(p, q)) {
      const moved = p.runs.filter((r, i) => q.runs[i]?.stationId !== r.stationId).length;
      if (moved > 0) changes.push({ id: `${p.id} order`, kind: "order", programId: p.id, moved });
    }
    if ((p.priority ?? 1) !== (q.priority ?? 1))
      changes.push({
        id: `${p.id} priority`,
        kind: "priority",
        programId: p.id,
        from: p.priority ?? 1,
        to: q.priority ?? 1,
      });
    if ((p.maxStationsAtOnce ?? 1) !== (q.maxStationsAtOnce ?? 1))
      changes.push({
        id: `${p.id} atOnce`,
        kind: "atOnce",
        programId: p.id,
        from: p.maxStationsAtOnce ?? 1,
        to: q.maxStationsAtOnce ?? 1,
      });
    const [from, to] = [startsOn(p), startsOn(q)];
    if (from.join() !== to.join()) changes.push({ id: `${p.id} starts`, kind: "starts", programId: p.id, from, to });
  }
  return changes;
}

/** The site with the chosen ones of those changes. */
export function applyChanges(before: SiteFile, after: SiteFile, chosen: ReadonlySet<string>): SiteFile {
  return {
    ...before,
    programs: before.programs.map((p) => {
      const q = after.programs.find((x) => x.id === p.id);
      if (!q) return p;
      const runs = sameStations(p, q) ? chosen.has(`${p.id} order`) : chosen.has("moves");
      const next: Program = {
        ...p,
        ...(runs ? { runs: q.runs } : {}),
        ...(chosen.has(`${p.id} starts`) ? { starts: q.starts } : {}),
      };
      if (chosen.has(`${p.id} priority`)) next.priority = q.priority ?? 1;
      if (chosen.has(`${p.id} atOnce`)) next.maxStationsAtOnce = q.maxStationsAtOnce ?? 1;
      return next;
    }),
  };
}

function sameStations(p: Program, q: Program): boolean {
  const ids = (x: Program): string =>
    x.runs
      .map((r) => r.stationId)
      .sort()
      .join("\n");
  return ids(p) === ids(q);
}

function movesOf(
  before: SiteFile,
  after: SiteFile,
): { stationId: string; fromProgramId: string; toProgramId: string }[] {
  return before.programs.flatMap((p) => {
    const q = after.programs.find((x) => x.id === p.id);
    return p.runs.flatMap((r) => {
      if (!q || q.runs.some((x) => x.stationId === r.stationId)) return [];
      const to = after.programs.find(
        (x) =>
          x.id !== p.id &&
          x.runs.some((y) => y.stationId === r.stationId) &&
          !before.programs.find((b) => b.id === x.id)?.runs.some((y) => y.stationId === r.stationId),
      );
      return to ? [{ stationId: r.stationId, fromProgramId: p.id, toProgramId: to.id }] : [];
    });
  });
}
