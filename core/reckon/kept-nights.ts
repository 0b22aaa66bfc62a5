import { addDays, type EpochS, instantOf } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Finding } from "./findings.ts";
import { type FindingWords, findingWords } from "./finding-words.ts";
import { inOrder, type Reckoning, reckonMornings } from "./reckon.ts";
import { type Log, type Nights, nightOf, type Point, pointsOf, type Stretch, stretchesOf } from "./stretches.ts";

/** A stretch by the ids of its stations: it is kept longer than a site stays as it was. */
export type KeptStretch = Omit<Stretch, "set" | "open"> & { stationIds: string[]; openIds: string[] };
/** What was read in a night, and by which columns. */
export type KeptNight = { night: string; keys: string[]; stretches: KeptStretch[] };

/** The nights of a log, for keeping. */
export function keptNights(w: Waterworks, log: Log): KeptNight[] {
  const ids = (places: readonly number[]): string[] => places.map((s) => w.site.stations[s]?.id ?? "");
  const nights = new Map<string, KeptStretch[]>();
  // A night on which nothing ran is one that was read, too.
  const { timeZone } = w.site.site;
  let ends: EpochS = Number.NEGATIVE_INFINITY;
  for (const { t } of log.rows) {
    if (t < ends) continue;
    const night = nightOf(timeZone, t);
    ends = instantOf(timeZone, addDays(night, 1), "12:00");
    nights.set(night, []);
  }
  for (const { set, open, ...s } of stretchesOf(w, log).stretches)
    nights.get(s.night)?.push({ ...s, stationIds: ids(set), openIds: ids(open) });
  return [...nights]
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([night, stretches]) => ({ night, keys: [...log.keys], stretches }));
}

/** Kept nights as the site stands now. What was read of stations or at points that are gone says nothing any more. */
export function nightsOf(w: Waterworks, kept: readonly KeptNight[]): Nights {
  const place = new Map(w.site.stations.map((s, i) => [s.id, i]));
  const points = new Map<string, Point>();
  const stretches: Stretch[] = [];
  for (const { keys, stretches: of } of kept) {
    const now = pointsOf(w, keys);
    for (const p of now) points.set(p.id, p);
    for (const { stationIds, openIds, ...s } of of) {
      const set = stationIds.map((id) => place.get(id));
      const open = openIds.map((id) => place.get(id));
      if (!points.has(s.point) || [...set, ...open].includes(undefined)) continue;
      const rising = (places: (number | undefined)[]): number[] => (places as number[]).sort((a, b) => a - b);
      stretches.push({ ...s, set: rising(set), open: rising(open) });
    }
  }
  return { points: [...points.values()], stretches: inOrder(stretches) };
}

/** What is known on a morning, in words too; the words of each finding in their order. */
export type ToldMorning = { night: string; reckoning: Reckoning; words: FindingWords[] };

/**
 * The mornings after some nights, going on from what was known.
 *
 * @param kept the nights looked at
 * @param before what was known on the morning before the first that is reckoned
 * @param from the first night whose morning is reckoned
 */
export function* toldMornings(
  w: Waterworks,
  kept: readonly KeptNight[],
  before: readonly Finding[],
  from: string,
): Generator<ToldMorning, void> {
  for (const { night, reckoning } of reckonMornings(w, nightsOf(w, kept), before, from))
    yield { night, reckoning, words: reckoning.found.map((f) => findingWords(w.site, f)) };
}
