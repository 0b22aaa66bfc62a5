import { nth } from "../checked.ts";
import { localDate } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { flowMoments, playNight } from "../dispatch/plan.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type Assumption, type HydraulicModel, networkModel } from "./network-model.ts";
import { aloneSets, designSet, type NightSet, nightSets } from "./pressure-sets.ts";
import { nodeKpa, type SolvedSet, solveSets } from "./solver.ts";
import { type StationPressure, worstOf } from "./worst-pressure.ts";

export type SetPressures = {
  /** Epoch seconds of the night's moment; null for the design set. */
  at: number | null;
  stations: StationPressure[];
  /** Least margin; where nothing is required, least pressure. */
  worst: StationPressure | null;
  /** What each POC delivers, L/min: where several feed one main, the solver says how they share. */
  pocs: { id: string; lpm: number }[];
  totalLpm: number;
  unbalanced: boolean;
};
export type PressureStudy = {
  /** Each station running by itself. */
  alone: StationPressure[];
  design: SetPressures | null;
  /** Every different set of the night. */
  night: SetPressures[];
  /** Stations whose pressure cannot be told, since no supply above them states one, or the network finds no balance with them alone. */
  unknown: string[];
  assumptions: Assumption[];
};

/** Solves the site's network for each station alone, for the design set and for every set of the night (handbook#5-ceilings). */
export async function pressureStudy(site: SiteFile, date: string | null): Promise<PressureStudy> {
  const w = waterworks(site);
  const model = networkModel(site);
  const capacity = new CapacityCalendar(w, date ?? localDate(site.site.timeZone, 0));
  const known = w.stationMainline.map((m) => (w.pocsAbove[m] ?? []).some((p) => pressureKnown(site, p)));
  const alone = aloneSets(w, model, capacity).filter((a) => known[a.station]);
  const asked = new Set(alone.map((a) => a.station));
  const design = designSet(w, model, capacity);
  const night = date === null ? [] : setsOfNight(w, model, date);
  const solved = await solveSets(model, [...alone.map((a) => a.set), design.set, ...night.map((n) => n.set)]);
  const report = (running: number[], result: SolvedSet, at: number | null, totalLpm: number): SetPressures =>
    setPressures(
      site,
      model,
      running.filter((s) => known[s]),
      result,
      at,
      totalLpm,
    );
  const told = new Set(alone.filter((_, i) => !nth(solved, i).unbalanced).map((a) => a.station));
  return {
    alone: alone.flatMap((a, i) =>
      told.has(a.station) ? [stationPressure(site, model, a.station, nth(solved, i))] : [],
    ),
    design:
      design.running.length === 0
        ? null
        : report(
            design.running,
            nth(solved, alone.length),
            null,
            design.set.stationLpm.reduce((a, q) => a + q, 0),
          ),
    night: night.map((n, i) => report(n.running, nth(solved, alone.length + 1 + i), n.at, n.totalLpm)),
    unknown: site.stations.filter((_, i) => !known[i] || (!told.has(i) && asked.has(i))).map((s) => s.id),
    assumptions: model.assumptions,
  };
}

function setsOfNight(w: Waterworks, model: HydraulicModel, date: string): NightSet[] {
  const night = playNight(w, date);
  return nightSets(w, model, night.runs, flowMoments(w, night, [...night.runs]));
}

/** Is there a pressure to begin with: a source that states one, or a pump. */
function pressureKnown(site: SiteFile, p: number): boolean {
  const poc = site.pocs[p];
  return (
    poc !== undefined &&
    (poc.devices.some((d) => d.kind === "pump") ||
      site.sources.some(
        (s) => poc.sourceIds.includes(s.id) && s.enabled !== false && s.staticPressureKpa !== undefined,
      ))
  );
}

function stationPressure(site: SiteFile, model: HydraulicModel, station: number, solved: SolvedSet): StationPressure {
  const s = nth(site.stations, station);
  const kPa = nodeKpa(model, solved, nth(model.stationNode, station));
  return {
    stationId: s.id,
    kPa,
    requiredKpa: s.requiredKpa ?? null,
    marginKpa: s.requiredKpa === undefined ? null : kPa - s.requiredKpa,
  };
}

function setPressures(
  site: SiteFile,
  model: HydraulicModel,
  running: number[],
  solved: SolvedSet,
  at: number | null,
  totalLpm: number,
): SetPressures {
  const stations = running.map((s) => stationPressure(site, model, s, solved));
  const pocs = site.pocs.map((p) => ({
    id: p.id,
    lpm: model.links.reduce(
      (sum, l, i) =>
        l.kind === "joint" && l.subjectId === p.id && model.nodes[l.from]?.subjectId !== p.id
          ? sum + Math.max(0, nth(solved.linkLpm, i))
          : sum,
      0,
    ),
  }));
  return { at, stations, worst: worstOf(stations), pocs, totalLpm, unbalanced: solved.unbalanced };
}
