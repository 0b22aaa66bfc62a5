import { mainHoldOffS } from "../../site-file/hold-off.ts";
import { nth } from "../../checked.ts";
import type { TaughtSet } from "../../judge/taught-sets.ts";
import type { KeptProfile } from "../../profiles/profile.ts";
import type { Policy, SiteFile } from "../../site-file/schema.ts";
import { judgedNight } from "../judgement.ts";
import { policyFrom, SCHOOLS } from "../schools.ts";
import { type BudgetFigures, figuresOf } from "./figures.ts";
import { type BudgetAssumptions, Ground, USUAL_ASSUMPTIONS } from "./ground.ts";
import { type Levers, rangesOf, siteWith } from "./levers.ts";
import { BudgetSearch, type Family, type Tried } from "./search.ts";

/** Limits with what they cost; `site` has them in it. */
export type BudgetPoint = { id: string | null; name: string; site: SiteFile; figures: BudgetFigures };
export type LimitsByBudget = {
  now: BudgetPoint;
  /** The least water at no more trips than asked; null where nothing that was tried trips so seldom. */
  best: BudgetPoint | null;
  /** The least water at each number of trips, the fewest first. */
  curve: BudgetPoint[];
  schools: BudgetPoint[];
};
export type BudgetOptions = {
  trips: number;
  profiles: readonly KeptProfile[];
  assumed?: Partial<BudgetAssumptions>;
  seed?: number;
  /** What nights say that sets draw. */
  sets?: readonly TaughtSet[];
  /** Asked between tries: the caller's clock. */
  shouldStop?: () => boolean;
  /** Hears 0 to 1; false gives up. */
  onProgress?: (share: number) => boolean;
};

/** Of the price of a trip, as so many times the water that would be lost without any limit: from none at all to whatever comes. */
const DEAREST = 1e3;
const CHEAPEST = 1e-4;
const PRICES = 13;
/** The order in which prices are tried: told to stop, the whole of the curve is there already, if roughly. */
const COARSE_FIRST = [6, 9, 3, 12, 0, 7, 8, 5, 4, 10, 11, 2, 1];
const CLOSER = 6;
const CURVE_POINTS = 12;
/** What no starting point is, nor what stands. */
export const FOUND = "Found";
/** Beyond so many trips nobody looks any more: the curve ends there. */
const MOST_TRIPS = 30;
const SLACK = 1.1;
/** Once in a hundred seasons is never: nothing is worth being still rarer. */
export const SELDOM = 0.01;

/**
 * The limits that lose the least water in a year under a stated rate of breaks, at no more trips for nothing in a season than asked (handbook#13-watched-night): found at a rising price a trip, which
 * gives the curve, and at the price at which the budget is just kept. The five starting points and the limits as they stand are reckoned on the same nights, and taken where nothing found is better.
 * Null when given up.
 *
 * @param date whose night is taken as usual
 */
export function limitsByBudget(site: SiteFile, date: string, options: BudgetOptions): LimitsByBudget | null {
  const assumed = { ...USUAL_ASSUMPTIONS, ...options.assumed };
  const going = (share: number): boolean => options.onProgress?.(share) !== false;
  const stop = (): boolean => options.shouldStop?.() === true;
  if (!going(0)) return null;
  const ground = new Ground(judgedNight(site, date, options.sets), assumed, options.seed ?? 1);
  const point = (id: string | null, name: string, of: SiteFile): BudgetPoint => ({
    id,
    name,
    site: of,
    figures: figuresOf(ground, of),
  });
  const now = point(null, "As it stands", site);
  const schools = SCHOOLS.map((s) => point(s.id, s.name, { ...site, policy: policyFrom(site, s) }));
  if (ground.stretches.length === 0) return { now, best: null, curve: [], schools };

  const search = new BudgetSearch(
    ground,
    rangesOf(site, options.profiles, assumed.leastPersistenceS),
    settles(site, assumed),
    stop,
  );
  const families = familiesOf(site);
  const { persistences } = search;
  for (const [p, persistenceS] of persistences.entries()) {
    if (!going((0.3 * p) / persistences.length)) return null;
    for (const family of families) search.sweep(family, persistenceS);
    if (stop()) break;
  }
  const most = Math.max(1, ...families.flatMap((f) => f.high.map((x) => x.litres)));
  const prices = Array.from({ length: PRICES }, (_, k) => most * DEAREST * (CHEAPEST / DEAREST) ** (k / (PRICES - 1)));
  let last: Levers[] = [];
  const at = (price: number): Tried[] => {
    const tried = search.at(families, price, last);
    last = tried.map((t) => t.levers);
    return tried;
  };
  for (const [k, place] of COARSE_FIRST.entries()) {
    if (!going(0.3 + (0.5 * k) / PRICES)) return null;
    at(nth(prices, place));
    if (stop()) break;
  }
  // Between the two prices that hold the budget, closer and closer.
  let [dear, cheap] = bracket(search.tried, prices, options.trips);
  for (let k = 0; k < CLOSER && !stop(); k++) {
    if (!going(0.8 + (0.2 * k) / CLOSER)) return null;
    const price = Math.sqrt(dear * cheap);
    const best = at(price).reduce((a, b) => (b.litres + price * b.trips < a.litres + price * a.trips ? b : a));
    if (best.trips > options.trips) cheap = price;
    else dear = price;
  }
  const front = frontier(search.tried, (t) => t);
  const found = (t: Tried): BudgetPoint => point(null, FOUND, siteWith(site, t.levers));
  // The search reckons from a table; what is taken keeps the budget exactly.
  const near = front.filter((t) => t.trips <= SLACK * options.trips).reverse();
  const kept = near
    .slice(0, CURVE_POINTS)
    .map(found)
    .find((p) => p.figures.tripsPerSeason <= options.trips);
  const drawn = thinned(
    front.filter((t) => t.trips <= MOST_TRIPS),
    CURVE_POINTS,
  ).map(found);
  const curve = frontier([...drawn, ...(kept ? [kept] : []), ...schools, now], ({ figures }) => ({
    trips: Math.max(SELDOM, figures.tripsPerSeason),
    litres: figures.litresAYear,
  })).filter((p) => p.figures.tripsPerSeason <= MOST_TRIPS);
  const best = curve.filter((p) => p.figures.tripsPerSeason <= options.trips).pop() ?? null;
  return { now, best, curve, schools };
}

/** A hold-off shorter than what stands, where some main waits longer than everything takes to settle. */
const settles = (site: SiteFile, { settledS }: BudgetAssumptions): number | null =>
  site.mainlines.some((m) => mainHoldOffS(m) > settledS) ? settledS : null;

/** The site's own way of judging and of shutting off, with a retest and without one; a site that only tells searches and isolates. */
function familiesOf(site: SiteFile): Family[] {
  const highResponse = site.policy.highResponse === "notify" ? "findAndIsolate" : site.policy.highResponse;
  const policy: Policy = { ...site.policy, highResponse };
  return [false, true].map((retest) => ({ policy: { ...policy, retest }, high: [], low: [] }));
}

/** Of the prices tried, the two next to each other between which the budget is kept. */
function bracket(tried: readonly Tried[], prices: readonly number[], trips: number): [number, number] {
  const least = (price: number): Tried =>
    tried.reduce((a, b) => (b.litres + price * b.trips < a.litres + price * a.trips ? b : a));
  const over = prices.findIndex((p) => least(p).trips > trips);
  if (over < 0) return [nth(prices, prices.length - 1), nth(prices, prices.length - 1) / 10];
  return [over === 0 ? 10 * nth(prices, 0) : nth(prices, over - 1), nth(prices, over)];
}

/** What is not beaten in both, the fewest trips first. */
function frontier<T>(tried: readonly T[], of: (t: T) => { trips: number; litres: number }): T[] {
  const front: T[] = [];
  let least = Number.POSITIVE_INFINITY;
  const all = tried.map((t) => ({ t, ...of(t) }));
  for (const { t, litres } of all.sort((a, b) => a.trips - b.trips || a.litres - b.litres))
    if (litres < least - 1e-9) {
      front.push(t);
      least = litres;
    }
  return front;
}

/** So many of a frontier, even in what they trip on a scale of ratios, its ends among them. */
function thinned(front: readonly Tried[], most: number): Tried[] {
  if (front.length <= most) return [...front];
  const scale = (t: Tried): number => Math.log10(Math.max(1e-3, t.trips));
  const [from, to] = [scale(nth(front, 0)), scale(nth(front, front.length - 1))];
  const places = Array.from({ length: most }, (_, k) => from + ((to - from) * k) / (most - 1));
  const nearest = places.map((p) => front.reduce((a, b) => (Math.abs(scale(b) - p) < Math.abs(scale(a) - p) ? b : a)));
  return [...new Set(nearest)];
}
