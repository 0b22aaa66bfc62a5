import type { NightFacts, Work } from "./fast-facts.ts";

/** What passes the network's cuts now, and what may: demand fits exactly when it fits through every one of them. */
export class FastRoom {
  readonly used: Float64Array;
  /** Place of the period in which it is. */
  period = 0;
  private readonly periods: NightFacts["periods"];

  constructor(periods: NightFacts["periods"], cuts: number) {
    this.periods = periods;
    this.used = new Float64Array(cuts);
  }

  private get cap(): Float64Array {
    return (this.periods[this.period] as NightFacts["periods"][number]).cap;
  }

  /** When what may pass changes next. */
  get changesAt(): number {
    return this.periods[this.period + 1]?.from ?? Number.POSITIVE_INFINITY;
  }

  enter(t: number): void {
    while (t >= this.changesAt) this.period++;
  }

  /** Counts a station in (1) or out (−1). */
  load({ cuts, flow }: Work, by: 1 | -1): void {
    for (let n = 0; n < cuts.length; n++) {
      const cut = cuts[n] as number;
      this.used[cut] = (this.used[cut] as number) + by * flow;
    }
  }

  has({ cuts, flow }: Work): boolean {
    const { cap, used } = this;
    for (let n = 0; n < cuts.length; n++) {
      const cut = cuts[n] as number;
      if ((used[cut] as number) + flow > (cap[cut] as number)) return false;
    }
    return true;
  }

  /** Could these run by themselves? */
  allows(items: readonly { w: Work }[]): boolean {
    const asked = new Float64Array(this.used.length);
    for (const { w } of items) for (const n of w.cuts) asked[n] = (asked[n] as number) + w.flow;
    return asked.every((lpm, n) => lpm <= (this.cap[n] as number));
  }
}
