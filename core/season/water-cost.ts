import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Source } from "../site-file/schema.ts";
import { monthWaterM3 } from "./month-water.ts";

export type Price = NonNullable<Source["price"]>;

/**
 * What a month's water costs, in the site's currency: the first of it by `perM3`, what is over a step by that step's price (handbook#14-season).
 *
 * @param m3 taken in that month, m³
 */
export function costOf({ perM3, steps = [] }: Price, m3: number): number {
  const rising = [{ overM3: 0, perM3 }, ...[...steps].sort((a, b) => a.overM3 - b.overM3)];
  return rising.reduce((sum, step, i) => {
    const end = Math.min(m3, rising[i + 1]?.overM3 ?? Number.POSITIVE_INFINITY);
    return sum + Math.max(0, end - step.overM3) * step.perM3;
  }, 0);
}

/** Points of connection that can feed a mainline, by itself or by mainlines above it. */
export function pocsAbove(site: SiteFile, mainlineId: string): SiteFile["pocs"] {
  const seen = new Set([mainlineId]);
  for (const id of seen) for (const feed of site.mainlines.find((m) => m.id === id)?.feedIds ?? []) seen.add(feed);
  return site.pocs.filter((p) => seen.has(p.id));
}

/** The source that some points of connection draw on first: of the lowest priority, as the file has them where these are equal; null where none in use feeds them. */
export function firstSourceOf(site: SiteFile, pocs: SiteFile["pocs"]): string | null {
  const fed = site.sources
    .filter((s) => s.enabled !== false && pocs.some((p) => p.sourceIds.includes(s.id)))
    .sort((a, b) => (a.priority ?? 1) - (b.priority ?? 1));
  return fed[0]?.id ?? null;
}

/** The source that a mainline draws on first; null where none in use feeds it. */
export const firstSource = (site: SiteFile, mainlineId: string): string | null =>
  firstSourceOf(
    site,
    pocsAbove(site, mainlineId).filter((p) => p.enabled !== false),
  );

/**
 * What the programs' water of a month costs as they stand, in the site's currency: each station's by the source that its mainline draws on first. Null where any of that water
 * has no price.
 *
 * @param month 0 for January
 */
export function monthCost(site: SiteFile, month: number): number | null {
  const bySource = new Map<string | null, Set<string>>();
  const first = new Map(site.mainlines.map((m) => [m.id, firstSource(site, m.id)]));
  for (const s of site.stations) {
    if (!expectedFlow(s)) continue;
    const source = first.get(s.mainlineId) ?? null;
    bySource.set(source, (bySource.get(source) ?? new Set()).add(s.id));
  }
  let sum = 0;
  for (const [sourceId, stationIds] of bySource) {
    const programs = site.programs.map((p) => ({ ...p, runs: p.runs.filter((r) => stationIds.has(r.stationId)) }));
    const m3 = monthWaterM3(site, month, programs);
    if (m3 === 0) continue;
    const price = site.sources.find((s) => s.id === sourceId)?.price;
    if (!price) return null;
    sum += costOf(price, m3);
  }
  return sum;
}
