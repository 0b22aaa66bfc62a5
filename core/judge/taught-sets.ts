import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { setKey } from "./set-ratio.ts";

/** What nights say that stations running together use of the sum of their figures (handbook#12-last-night). */
export type TaughtSet = {
  stationIds: string[];
  /** As read and reckoned, without what has changed since: of the sum of the figures that the stations had then. */
  ratio: number;
  /** The part of it that is the set's own, whatever its stations' figures are: the network's share, and how far readings of this set lie off it. */
  drawn: number;
  /** The sum of the figures at that time, L/min. */
  partsLpm: number;
  /** On which it was read; 0: by the network's share alone, as it is planned. */
  nights: number;
};

/** Nights that make a set known by its readings. */
export const TAUGHT_BY_NIGHTS = 2;
/** Figures that differ by more have been renewed since. */
const SAME_FIGURES = 0.002;

/** What a set uses of the sum of its figures as they are now; null where nothing was taught of it. */
export type Taught = (stationIds: readonly string[]) => { ratio: number; nights: number } | null;

/** Looks up what nights taught of the sets of a site. A station whose figure was renewed since keeps only what is the set's own. */
export function taughtOf(site: Pick<SiteFile, "stations">, sets: readonly TaughtSet[]): Taught {
  const figure = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? null]));
  const known = new Map(sets.map((s) => [setKey(s.stationIds), s]));
  return (stationIds) => {
    const set = known.get(setKey(stationIds));
    if (!set) return null;
    const parts = stationIds.reduce((sum, id) => sum + (figure.get(id) ?? Number.NaN), 0);
    if (!(parts > 0)) return null;
    const same = Math.abs(parts / set.partsLpm - 1) <= SAME_FIGURES;
    return { ratio: same ? set.ratio : set.drawn, nights: set.nights };
  };
}

/**
 * The site as Presa itself judges its readings: sets that nights have read use what they were read to use, those that were learned what was learned, others what the network leaves them. What a
 * controller expects is not touched by it: it adds its stations' figures up.
 */
export function withTaughtSets(site: SiteFile, sets: readonly TaughtSet[]): SiteFile {
  if (sets.length === 0) return site;
  const taught = taughtOf(site, sets);
  const learned = site.setRatios ?? [];
  const byHand = new Set(learned.map((r) => setKey(r.stationIds)));
  const added = sets.flatMap(({ stationIds, partsLpm }): NonNullable<SiteFile["setRatios"]> => {
    const now = taught(stationIds);
    if (!now || stationIds.length < 2) return [];
    if (byHand.has(setKey(stationIds)) && now.nights < TAUGHT_BY_NIGHTS) return [];
    return [{ stationIds, ratio: now.ratio, meanLpm: now.ratio * partsLpm, sdLpm: 0, partsLpm, at: NOT_LEARNED }];
  });
  const read = new Set(added.map((r) => setKey(r.stationIds)));
  return { ...site, setRatios: [...learned.filter((r) => !read.has(setKey(r.stationIds))), ...added] };
}

const NOT_LEARNED = "1970-01-01T00:00:00Z";
