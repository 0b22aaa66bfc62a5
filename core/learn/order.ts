import { got, nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";

/**
 * The order in which stations are learned: main by main along the feeds, so that each main is filled once and stays full, and by number within a main.
 *
 * @returns places in the file
 */
export function learningOrder(w: Waterworks): number[] {
  const fed = (m: number): number[] =>
    w.site.mainlines.flatMap((_, k) => ((w.feedMainlines[k] ?? [])[0] === m ? [k] : []));
  const mains: number[] = [];
  const visit = (m: number): void => {
    if (mains.includes(m)) return;
    mains.push(m);
    for (const k of fed(m)) visit(k);
  };
  w.site.mainlines.forEach((_, m) => {
    if ((w.feedMainlines[m] ?? []).length === 0) visit(m);
  });
  w.site.mainlines.forEach((_, m) => {
    visit(m);
  });
  const rank = new Map(mains.map((m, i) => [m, i]));
  return w.site.stations
    .map((_, i) => i)
    .sort(
      (a, b) =>
        got(rank, nth(w.stationMainline, a)) - got(rank, nth(w.stationMainline, b)) ||
        (w.site.stations[a]?.number ?? 0) - (w.site.stations[b]?.number ?? 0) ||
        a - b,
    );
}
