import { got, nth } from "../checked.ts";
import { ceilings, type ElementCeiling } from "../ceilings/ceilings.ts";
import { inUse } from "./in-use.ts";
import type { SiteFile } from "../site-file/schema.ts";

/**
 * The waterworks with ids replaced by places in the file, and who can reach whom. Built once a site; never changed.
 * Feeds are loop-free (the parser refuses loops).
 */
export type Waterworks = {
  site: SiteFile;
  sourceIndex: Map<string, number>;
  pocIndex: Map<string, number>;
  mainlineIndex: Map<string, number>;
  stationIndex: Map<string, number>;
  controllerIndex: Map<string, number>;
  /** Ceilings in L/min, Infinity where nothing limits. */
  sourceCeiling: number[];
  pocCeiling: number[];
  mainlineCeiling: number[];
  ceilingById: Map<string, ElementCeiling>;
  /** Sources of each POC that are enabled; none of a POC that is not. */
  pocSources: number[][];
  /** Feeds that are in use. */
  feedPocs: number[][];
  feedMainlines: number[][];
  /** Per mainline: itself and every mainline that feeds it, nearest first. */
  mainsAbove: number[][];
  /** Per mainline: every POC that can pressurise it. */
  pocsAbove: number[][];
  /** Connected system (POCs and mainlines joined by feeds) of each POC and mainline. */
  systemOfPoc: number[];
  systemOfMainline: number[];
  systemCount: number;
  stationMainline: number[];
  stationController: number[];
};

export function waterworks(site: SiteFile): Waterworks {
  const index = (items: { id: string }[]): Map<string, number> => new Map(items.map((item, i) => [item.id, i]));
  const sourceIndex = index(site.sources);
  const pocIndex = index(site.pocs);
  const mainlineIndex = index(site.mainlines);
  const controllerIndex = index(site.controllers);
  const ceilingById = new Map(ceilings(site).map((c) => [c.id, c]));
  const limit = (id: string): number => ceilingById.get(id)?.ceilingLpm ?? Number.POSITIVE_INFINITY;
  const places = (ids: string[], known: Map<string, number>): number[] => ids.flatMap((id) => known.get(id) ?? []);

  const { pocs, mainlines } = inUse(site);
  const feedPocs = mainlines.map((m) => places(m.feedIds, pocIndex));
  const feedMainlines = mainlines.map((m) => places(m.feedIds, mainlineIndex));
  const mainsAbove = site.mainlines.map((_, m) => {
    const seen = [m];
    for (let i = 0; i < seen.length; i++)
      for (const f of feedMainlines[nth(seen, i)] ?? []) if (!seen.includes(f)) seen.push(f);
    return seen;
  });
  const pocsAbove = mainsAbove.map((above) => [...new Set(above.flatMap((m) => feedPocs[m] ?? []))]);

  const systems = connectedSystems(site.pocs.length, site.mainlines.length, feedPocs, feedMainlines);
  return {
    site,
    sourceIndex,
    pocIndex,
    mainlineIndex,
    controllerIndex,
    stationIndex: index(site.stations),
    sourceCeiling: site.sources.map((s) => limit(s.id)),
    pocCeiling: site.pocs.map((p) => limit(p.id)),
    mainlineCeiling: site.mainlines.map((m) => limit(m.id)),
    ceilingById,
    pocSources: pocs.map((p) => places(p.sourceIds, sourceIndex).filter((s) => site.sources[s]?.enabled !== false)),
    feedPocs,
    feedMainlines,
    mainsAbove,
    pocsAbove,
    ...systems,
    stationMainline: site.stations.map((s) => got(mainlineIndex, s.mainlineId)),
    stationController: site.stations.map((s) => got(controllerIndex, s.controllerId)),
  };
}

/** What a mainline can be given at the most, L/min: the least of itself, the mains above it, and its points of connection together. */
export function ceilingAbove(w: Waterworks, mainline: number): number {
  return Math.min(
    ...(w.mainsAbove[mainline] ?? []).map((m) => nth(w.mainlineCeiling, m)),
    (w.pocsAbove[mainline] ?? []).reduce((sum, p) => sum + nth(w.pocCeiling, p), 0),
  );
}

function connectedSystems(pocs: number, mains: number, feedPocs: number[][], feedMainlines: number[][]) {
  const parent = Array.from({ length: pocs + mains }, (_, i) => i);
  const root = (i: number): number => {
    let at = i;
    while (parent[at] !== at) at = nth(parent, at);
    return at;
  };
  const join = (a: number, b: number): void => {
    const [ra, rb] = [root(a), root(b)];
    parent[Math.max(ra, rb)] = Math.min(ra, rb);
  };
  for (let m = 0; m < mains; m++) {
    for (const p of feedPocs[m] ?? []) join(p, pocs + m);
    for (const f of feedMainlines[m] ?? []) join(pocs + f, pocs + m);
  }
  const number = new Map<number, number>();
  const systemOf = (i: number): number => {
    const r = root(i);
    if (!number.has(r)) number.set(r, number.size);
    return got(number, r);
  };
  const systemOfPoc = Array.from({ length: pocs }, (_, i) => systemOf(i));
  const systemOfMainline = Array.from({ length: mains }, (_, i) => systemOf(pocs + i));
  return { systemOfPoc, systemOfMainline, systemCount: number.size };
}
