import { type FaultKind, faultSpec } from "@/core/bench/faults/kinds";
import { type FaultRequest, faultSubjects } from "@/core/bench/faults/resolve";
import type { SubjectKind } from "@/core/bench/faults/spec";
import { type EpochS, localIso } from "@/core/dates/wall-time";
import { waterworks } from "@/core/network/waterworks";
import type { SiteFile } from "@/core/site-file/schema";

/** Where in a run a dropped fault begins: past its hold-off, well before its end. */
const INTO_THE_RUN = 1 / 3;

/**
 * A fault as it falls on a run: on its station, or on what carries its water, from a third into the run. Null where the site has nothing of that kind there.
 *
 * @param firstStart from which `+SECONDS` count
 */
export function faultOnRun(
  site: SiteFile,
  kind: FaultKind,
  run: { stationId: string; start: string; end: string },
  firstStart: EpochS,
): FaultRequest | null {
  const subjectId = subjectOf(site, kind, run.stationId);
  if (subjectId === null) return null;
  const [from, to] = [Date.parse(run.start) / 1000, Date.parse(run.end) / 1000];
  const at = Math.round(from + (to - from) * INTO_THE_RUN);
  return { kind, subjectId, at: `+${Math.max(0, at - firstStart)}` };
}

/** The station itself where the kind belongs on stations; else the nearest piece of that kind above it. */
function subjectOf(site: SiteFile, kind: FaultKind, stationId: string): string | null {
  const { subjects } = faultSpec(kind);
  if (subjects.includes("station")) return stationId;
  const w = waterworks(site);
  const place = w.stationIndex.get(stationId);
  const main = place === undefined ? undefined : w.stationMainline[place];
  if (main === undefined) return null;
  const pocs = (w.pocsAbove[main] ?? []).flatMap((p) => site.pocs[p] ?? []);
  const mains = (w.mainsAbove[main] ?? []).flatMap((m) => site.mainlines[m] ?? []);
  const devices = [...mains.flatMap((m) => m.devices ?? []), ...pocs.flatMap((p) => p.devices)];
  const above: Record<SubjectKind, (string | undefined)[]> = {
    station: [],
    mainline: mains.map((m) => m.id),
    poc: pocs.map((p) => p.id),
    source: pocs.flatMap((p) => p.sourceIds),
    pump: devices.filter((d) => d.kind === "pump").map((d) => d.id),
    flowSensor: devices.filter((d) => d.kind === "flowSensor").map((d) => d.id),
    masterValve: devices.filter((d) => d.kind === "masterValve").map((d) => d.id),
  };
  const allowed = new Set(faultSubjects(site, kind).map((s) => s.id));
  return subjects.flatMap((s) => above[s]).find((id): id is string => id !== undefined && allowed.has(id)) ?? null;
}

/** `+SECONDS` as the clock of the site shows it. */
export function shownFaultTime(at: string, timeZone: string, firstStart: EpochS): string {
  if (!at.startsWith("+")) return at;
  return localIso(timeZone, firstStart + Number(at.slice(1))).slice(11, 19);
}
