import type { SiteFile, Station } from "../site-file/schema.ts";

/** One key for the same stations in whatever order. */
export const setKey = (stationIds: readonly string[]): string => [...stationIds].sort().join("\n");

const KNOWN = new WeakMap<NonNullable<SiteFile["setRatios"]>, Map<string, number>>();

/** The learned ratio of exactly these stations running together to the sum of their parts; 1 where none was learned. */
export function setRatio(site: Pick<SiteFile, "setRatios">, stations: readonly Station[]): number {
  const { setRatios } = site;
  if (!setRatios || stations.length < 2) return 1;
  let ratios = KNOWN.get(setRatios);
  if (!ratios) {
    ratios = new Map(setRatios.map((r) => [setKey(r.stationIds), r.ratio]));
    KNOWN.set(setRatios, ratios);
  }
  return ratios.get(setKey(stations.map((s) => s.id))) ?? 1;
}
