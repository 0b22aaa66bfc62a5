import { got, nth } from "../checked.ts";
import type { PlanRun } from "../dispatch/plan.ts";
import { setKey } from "../judge/set-ratio.ts";
import { stretchesOf } from "../limits/stretches.ts";
import { waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";

/** Stations that run together behind the same sensors, in file order, and how much of the nights given they do. */
export type NightSet = {
  stationIds: string[];
  seconds: number;
  /** Σ expected flow of the parts, L/min. */
  partsLpm: number;
  litres: number;
  /** Minutes watched in sets so far in the list ÷ minutes of all sets: this one and those before it. */
  covered: number;
  /** The learned ratio, where there is one. */
  ratio: number | null;
};

/** The sets of a night, those first that matter most: litres that run in them. Stations without a figure cannot be compared, and their sets are left out. */
export function setsOfNight(site: SiteFile, runs: readonly PlanRun[]): NightSet[] {
  const w = waterworks(site);
  const known = new Map((site.setRatios ?? []).map((r) => [setKey(r.stationIds), r.ratio]));
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? null]));
  const found = new Map<string, { ids: string[]; seconds: number }>();
  for (const { stations, from, to } of stretchesOf(w, runs)) {
    const ids = stations.map((s) => nth(site.stations, s).id);
    if (ids.length < 2 || ids.some((id) => flow.get(id) === null)) continue;
    const key = setKey(ids);
    const set = found.get(key) ?? { ids, seconds: 0 };
    set.seconds += to - from;
    found.set(key, set);
  }
  const place = (id: string): number => got(w.stationIndex, id);
  const sets = [...found.values()]
    .map(({ ids, seconds }) => {
      const stationIds = [...ids].sort((a, b) => place(a) - place(b));
      const partsLpm = stationIds.reduce((sum, id) => sum + (flow.get(id) as number), 0);
      return {
        stationIds,
        seconds,
        partsLpm,
        litres: (partsLpm * seconds) / 60,
        covered: 0,
        ratio: known.get(setKey(stationIds)) ?? null,
      };
    })
    .sort((a, b) => b.litres - a.litres || b.seconds - a.seconds);
  const all = sets.reduce((sum, s) => sum + s.seconds, 0);
  let so = 0;
  return sets.map((s) => {
    so += s.seconds;
    return { ...s, covered: all > 0 ? so / all : 0 };
  });
}

/**
 * A part whose flow is missing from a set's: its valve did not open, or is another's (a set of one valve less reads so).
 *
 * @param usualRatio what sets of this site use of the sum of their parts, where enough were learned to say
 */
export function missingPart(
  site: SiteFile,
  set: { stationIds: string[]; meanLpm: number; partsLpm: number },
  usualRatio = 1,
): string | null {
  if (set.meanLpm / set.partsLpm / usualRatio > 0.9) return null;
  const parts = set.stationIds.map((id) => ({
    id,
    lpm: expectedFlow(site.stations.find((s) => s.id === id) as Station)?.lpm ?? 0,
  }));
  const close = parts
    .map((p) => ({
      id: p.id,
      off: Math.abs(set.meanLpm / (usualRatio * (set.partsLpm - p.lpm)) - 1),
      share: p.lpm / set.partsLpm,
    }))
    .filter((p) => p.off < 0.04 && p.share > 0.12)
    .sort((a, b) => a.off - b.off);
  return close[0]?.id ?? null;
}
