/** A ceiling in so many parts; flows are rounded down to them, so that no set that fits is left out. */
const PARTS = 128;
const ROUNDS = 50;
/** Steps of the prices, as shares, the first and each next beside the one before. */
const FIRST_STEP = 0.12;
const NEXT_STEP = 0.95;
/** Where as many as this fit on average, the sums of their flows are so dense that the litres say it all. */
const MANY_FIT = 6;

/** What must pass one ceiling: L/min and s, one a station. */
export type Passing = { lpm: number; s: number };

/**
 * Seconds that no order beats where only few stations fit under a ceiling together: what runs at any moment is one of the sets that fit, so whatever price is put on a second of each station, the night
 * takes at least the price of all work ÷ the price of the dearest set. Prices begin as the flows, which gives litres ÷ ceiling, and are raised where the dearest set leaves work over (the dual of packing
 * sets into time, by subgradients; any prices give a true bound).
 *
 * @param ceiling L/min
 * @returns s; 0 where so many fit that it would say no more than the litres
 */
export function patternBoundS(passing: readonly Passing[], ceiling: number): number {
  const work = passing.filter((x) => x.lpm > 0 && x.s > 0);
  const mean = work.reduce((sum, x) => sum + x.lpm, 0) / Math.max(1, work.length);
  if (work.length === 0 || mean * MANY_FIT < ceiling) return 0;
  const weights = work.map((x) => Math.floor((x.lpm / ceiling) * PARTS + 1e-9));
  let prices = work.map((x) => x.lpm / ceiling);
  let [best, step] = [0, FIRST_STEP];
  for (let round = 0; round < ROUNDS; round++) {
    const { price, chosen } = dearestSet(weights, prices);
    if (price <= 0) break;
    const bound = work.reduce((sum, x, i) => sum + x.s * (prices[i] as number), 0) / price;
    best = Math.max(best, bound);
    // Dearer is what would not be done in that time by this set alone, cheaper what would be done over.
    const over = work.map((x, i) => x.s / bound - (chosen[i] ? 1 : 0));
    const length = Math.hypot(...over);
    if (length < 1e-9) break;
    prices = prices.map((p, i) => Math.max(0, p / price + (step * (over[i] as number)) / length));
    step *= NEXT_STEP;
  }
  return best;
}

/** The set that fits and costs most (a knapsack). */
function dearestSet(weights: readonly number[], prices: readonly number[]): { price: number; chosen: boolean[] } {
  const price = new Float64Array(PARTS + 1);
  const taken = weights.map((w, i) => {
    const here = new Uint8Array(PARTS + 1);
    const own = prices[i] as number;
    for (let room = PARTS; room >= w; room--) {
      const other = (price[room - w] as number) + own;
      if (other > (price[room] as number)) {
        price[room] = other;
        here[room] = 1;
      }
    }
    return here;
  });
  let room = PARTS;
  const chosen = weights.map(() => false);
  for (let i = weights.length - 1; i >= 0; i--)
    if (taken[i]?.[room]) {
      chosen[i] = true;
      room -= weights[i] as number;
    }
  return { price: price[PARTS] as number, chosen };
}
