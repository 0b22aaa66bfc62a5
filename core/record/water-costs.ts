import { costOf } from "../season/water-cost.ts";
import type { SiteFile } from "../site-file/schema.ts";

type OfSource = { at: string; sourceId: string; litres: number; lostL: number };
/** In the site's currency. `lost`: what leaks and breaks cost; `percentLess`: what a percent less water would have saved. */
export type WaterCosts = { cost: number; lost: number; percentLess: number };

/**
 * What the water of each month costs by its sources' prices and steps (handbook#14-season); months in which a source without a price gave any are left out. What was lost,
 * and what is saved, is counted from the dearest step down: it is what came last.
 *
 * @param used by month and source, what was not read as planned
 */
export function waterCosts(site: SiteFile, used: readonly OfSource[]): Map<string, WaterCosts> {
  const prices = new Map(site.sources.map((s) => [s.id, s.price]));
  const months = new Map<string, WaterCosts | null>();
  for (const { at, sourceId, litres, lostL } of used) {
    const price = prices.get(sourceId);
    const sum = months.get(at);
    if (!price || sum === null) {
      months.set(at, null);
      continue;
    }
    const m3 = litres / 1000;
    const cost = costOf(price, m3);
    months.set(at, {
      cost: (sum?.cost ?? 0) + cost,
      lost: (sum?.lost ?? 0) + cost - costOf(price, m3 - lostL / 1000),
      percentLess: (sum?.percentLess ?? 0) + cost - costOf(price, 0.99 * m3),
    });
  }
  return new Map([...months].flatMap(([at, costs]) => (costs ? [[at, costs]] : [])));
}
