import { nth } from "../checked.ts";
import type { NightSays } from "./model.ts";
import type { Point, Stretch } from "./stretches.ts";

/** How far the split of a set between sensors lies off from night to night, as a share of what one of them reads. */
const SPLIT_SD = 0.02;
/** So much better than any other, in squares of that over all sets, has one to fit. */
const BEATS_SQUARE_BY = 16;

/**
 * Which of several sensors of one system reads otherwise since some night: together they read the whole, so only how they share it tells (handbook#12-last-night). The same sets are compared before and
 * after; a sensor off by f changes its own part by that, and nobody else's.
 *
 * @param from the first night that reads otherwise @param change of the whole, as a share
 * @returns its place among the columns of the point; null where their shares tell nothing for sure
 */
export function sensorThatChanged(
  point: Pick<Point, "id" | "columns">,
  nights: readonly NightSays[],
  from: number,
  change: number,
): number | null {
  const of = (some: readonly NightSays[]): Map<string, Stretch[]> => bySet(some, point.id);
  const [before, after] = [of(nights.slice(0, from)), of(nights.slice(from))];
  const places = point.columns.map((_, i) => i);
  const cost = places.map(() => 0);
  for (const [set, later] of after) {
    const was = sharesIn(before.get(set) ?? []);
    const is = sharesIn(later);
    if (!was || !is) continue;
    for (const j of places) {
      // Were it this one: what its part would be now, and what that makes of all shares.
      const own = nth(was, j) + change;
      if (own <= 0) cost[j] = Number.POSITIVE_INFINITY;
      for (const i of places) {
        const expected = (i === j ? own : nth(was, i)) / (1 + change);
        cost[j] = nth(cost, j) + ((nth(is, i) - expected) / SPLIT_SD) ** 2;
      }
    }
  }
  const ranked = [...places].sort((a, b) => nth(cost, a) - nth(cost, b));
  const [best, next] = ranked;
  if (best === undefined || next === undefined) return null;
  return nth(cost, next) - nth(cost, best) >= BEATS_SQUARE_BY ? best : null;
}

function bySet(nights: readonly NightSays[], point: string): Map<string, Stretch[]> {
  const found = new Map<string, Stretch[]>();
  for (const s of nights.flatMap((n) => n.stretches)) {
    if (s.point !== point || !s.partsLpm) continue;
    const key = s.open.join();
    found.set(key, [...(found.get(key) ?? []), s]);
  }
  return found;
}

/** The mean share of each column in some readings of one set; null without any. */
function sharesIn(stretches: readonly Stretch[]): number[] | null {
  const [first] = stretches;
  if (!first?.partsLpm) return null;
  return first.partsLpm.map(
    (_, i) => stretches.reduce((sum, s) => sum + nth(s.partsLpm ?? [], i) / s.meanLpm, 0) / stretches.length,
  );
}
