import { nth } from "../checked.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { FastNight } from "./fast-night.ts";
import type { Tuning } from "./fast-facts.ts";

/** Kinds of change a search may make; `starts` and `moves` are only made where they are asked for. */
export type Allowed = { order: boolean; priority: boolean; atOnce: boolean; starts: boolean; moves: boolean };
export const USUAL_CHANGES: Allowed = { order: true, priority: true, atOnce: true, starts: false, moves: false };
/** Up to so many orders are simply all tried, each with every number at once: one program of 8 stations has 40,320. */
export const TRY_ALL = 45_000;
export const wideOf = (t: Tuning[number]): number => Math.max(t.atOnce, Math.min(t.order.length, 40));

/** The classic orders (longest, largest, most litres first), as they run now and with as many at once as fit. */
export function openings(base: SiteFile, fast: FastNight | null, filed: Tuning, allowed: Allowed): Tuning[] {
  const wide: Tuning = allowed.atOnce ? filed.map((t) => ({ ...t, atOnce: wideOf(t) })) : filed;
  if (!allowed.order) return [wide];
  const keys: ((p: number, place: number) => number)[] = fast
    ? [(p, n) => fast.secondsOf(p, n), (p, n) => fast.flowOf(p, n), (p, n) => fast.secondsOf(p, n) * fast.flowOf(p, n)]
    : [(p, n) => base.programs[p]?.runs[n]?.minutes ?? 0];
  return [
    wide,
    ...keys.flatMap((key) =>
      [filed, wide].map((t) => t.map((x, p) => ({ ...x, order: [...x.order].sort((a, b) => key(p, b) - key(p, a)) }))),
    ),
  ];
}

/** Every order and rank there is, numbers at once aside; null when they are too many to try. */
export function everyOrder(filed: Tuning, allowed: Allowed): Iterable<Tuning> | null {
  const factorial = (n: number): number => (n <= 1 ? 1 : n * factorial(n - 1));
  const busy = filed.flatMap((t, p) => (t.order.length > 0 ? [p] : []));
  const ranked = allowed.priority && busy.length > 1;
  const ways =
    filed.reduce((product, t) => product * (allowed.order ? factorial(t.order.length) : 1), 1) *
    (ranked ? factorial(busy.length) : 1);
  if (ways > TRY_ALL) return null;
  // Each try names the programs in their order of rank; without ranks there is one such order, the filed one.
  return combine(filed, 0, allowed, ranked ? [...permutations(busy)] : [null]);
}

export function* combine(
  filed: Tuning,
  at: number,
  allowed: Allowed,
  ranks: readonly (number[] | null)[],
): Generator<Tuning> {
  const t = filed[at];
  if (!t) {
    for (const rank of ranks)
      yield rank ? filed.map((x, p) => (rank.includes(p) ? { ...x, priority: 1 + rank.indexOf(p) } : x)) : filed;
    return;
  }
  for (const order of allowed.order ? permutations(t.order) : [t.order])
    yield* combine(
      filed.map((x, p) => (p === at ? { ...x, order } : x)),
      at + 1,
      allowed,
      ranks,
    );
}

/** Tells whether an order puts two entries that are alike the other way round than they are filed: then the night is one already tried. */
export function repeats(filed: Tuning, fast: FastNight): (tuning: Tuning) => boolean {
  const pairs = filed.flatMap(({ order }, p) =>
    order.flatMap((a) => order.flatMap((b) => (a < b && fast.alike(p, a, b) ? [{ p, a, b }] : []))),
  );
  return (tuning) =>
    pairs.some(({ p, a, b }) => {
      const order = nth(tuning, p).order;
      return order.indexOf(b) < order.indexOf(a);
    });
}

/**
 * The numbers at once worth playing under one order, from as many as fit downward. A night in which a program never ran more than `used` at once is the same
 * under every number from there up, so those are left out.
 *
 * @param play plays a tuning and tells how many of each program ran at once in it
 */
export function tryNumbersAtOnce(tuning: Tuning, play: (tuning: Tuning) => ArrayLike<number>): void {
  const played: { from: number[]; to: number[] }[] = [];
  const numbers = tuning.map((t) => (t.order.length > 0 ? wideOf(t) : t.atOnce));
  const descend = (at: number): void => {
    const t = tuning[at];
    if (!t) {
      if (played.some((box) => numbers.every((n, p) => n >= nth(box.from, p) && n <= nth(box.to, p)))) return;
      const used = play(tuning.map((x, p) => ({ ...x, atOnce: nth(numbers, p) })));
      played.push({ from: numbers.map((n, p) => Math.min(n, Math.max(1, nth(used, p)))), to: [...numbers] });
      return;
    }
    const most = nth(numbers, at);
    for (let n = most; n >= (t.order.length > 0 ? 1 : most); n--) {
      numbers[at] = n;
      descend(at + 1);
    }
    numbers[at] = most;
  };
  descend(0);
}

export function* permutations(items: number[]): Generator<number[]> {
  if (items.length <= 1) {
    yield items;
    return;
  }
  for (const [i, item] of items.entries())
    for (const rest of permutations([...items.slice(0, i), ...items.slice(i + 1)])) yield [item, ...rest];
}
