import { nth } from "../../checked.ts";
import type { Acting } from "./acting.ts";
import type { Ground } from "./ground.ts";
import { Ledger } from "./ledger.ts";
import { type Levers, percentsOf, ratioAt } from "./levers.ts";

type Side = "high" | "low";
const SIDES = ["high", "low"] as const;
/** What is of its own stays only where it saves more than this share of the cost. */
const WORTH_ITS_OWN = 2e-4;
/** Saves nothing that could be told. */
const NOTHING = 1e-7;

/** The percentages of every station by itself: one is changed, and what that does is reckoned only where it acts. */
export class OwnPercents {
  readonly ledger: Ledger;
  private readonly ground: Ground;
  private readonly from: Levers;
  private readonly acting: Acting;
  private readonly costOf: (ledger: Ledger) => number;
  private readonly inherited: Record<Side, number[]>;
  private readonly now: Record<Side, number[]>;
  /** By station: all that run beside it, and it. */
  private readonly beside: number[][];
  private readonly places: number[][];
  private cost: number;

  /** @param acting what the levers do; it is changed */
  constructor(ground: Ground, from: Levers, acting: Acting, costOf: (ledger: Ledger) => number) {
    this.ground = ground;
    this.from = from;
    this.acting = acting;
    this.costOf = costOf;
    this.ledger = new Ledger(ground, acting);
    this.cost = costOf(this.ledger);
    const shared: Levers = { ...from, stations: from.stations.map(() => ({})) };
    this.inherited = percentsOf(ground, shared);
    this.now = percentsOf(ground, from);
    this.places = ground.of.map((mine) => mine.map((v) => v.i));
    this.beside = ground.of.map((mine) => [...new Set(mine.flatMap((v) => v.stretch.stations))]);
  }

  /** One round over all stations; false when nothing came of it. */
  round(others: (percent: number) => number[]): boolean {
    const before = this.cost;
    for (const [s, mine] of this.ground.of.entries())
      if (mine.length > 0) for (const side of SIDES) this.turn(s, side, others);
    return this.cost < before * (1 - WORTH_ITS_OWN);
  }

  /** What was come to; a station that has what everything else has says nothing. */
  levers(): Levers {
    const own = (s: number, side: Side): number | undefined => {
      const now = nth(this.now[side], s);
      return now === nth(this.inherited[side], s) ? undefined : now;
    };
    return {
      ...this.from,
      stations: this.ground.of.map((_, s) => ({ highPercent: own(s, "high"), lowPercent: own(s, "low") })),
    };
  }

  /** The best of other percentages of one station on one side. */
  private turn(s: number, side: Side, others: (percent: number) => number[]): void {
    const inherited = nth(this.inherited[side], s);
    let now = nth(this.now[side], s);
    for (const percent of new Set([inherited, ...others(now)])) {
      if (percent === now) continue;
      let margin = -NOTHING;
      if (percent === inherited) margin = WORTH_ITS_OWN;
      else if (now === inherited) margin = -WORTH_ITS_OWN;
      const next = this.put(s, side, percent);
      if (next < this.cost * (1 + margin)) [this.cost, now] = [next, percent];
      else this.put(s, side, now);
    }
  }

  private put(s: number, side: Side, percent: number): number {
    const { ground, acting, now } = this;
    now[side][s] = percent;
    const mine = nth(this.places, s);
    for (const i of mine) acting[side][i] = ratioAt(ground, i, now.high, now.low)[side];
    this.ledger.renew(side, mine, nth(this.beside, s));
    return this.costOf(this.ledger);
  }
}
