import { nth } from "../../checked.ts";
import type { Acting } from "./acting.ts";
import type { Ground, Swings, Visit } from "./ground.ts";
import type { Judging } from "./held.ts";

/** Valves that never open in a season, of a hundred stations. */
const NEVER_OPENS_PER_100 = 1;

/** What becomes of one break or valve of one station over a season, were it to happen once. */
type Fate = {
  /** Share of nights on which it is seen. */
  seen: number;
  litres: number;
};

/**
 * What limits cost and see on one night, kept stretch by stretch and station by station so that one changed limit is reckoned anew only where it acts (handbook#13-watched-night).
 * A break is seen in a stretch on the nights on which the reading with it is held over the limit; one night's stretches stray together, so of several the best counts. Unseen it runs all night,
 * and again the next, until somebody walks past. Its loops index without asking whether something is there: a search reckons millions of times.
 */
export class Ledger {
  private readonly ground: Ground;
  private readonly acting: Acting;
  /** Trips for nothing in a season by stretch, over the high limit and under the low one. */
  private readonly over: Float64Array;
  private readonly under: Float64Array;
  /** Litres lost in a year by what breaks, and short by valves that never open, by station. */
  private readonly lost: Float64Array;
  private readonly short: Float64Array;
  tripsOver = 0;
  tripsUnder = 0;
  lostL = 0;
  shortL = 0;

  constructor(ground: Ground, acting: Acting) {
    this.ground = ground;
    this.acting = acting;
    this.over = new Float64Array(ground.stretches.length);
    this.under = new Float64Array(ground.stretches.length);
    this.lost = new Float64Array(ground.of.length);
    this.short = new Float64Array(ground.of.length);
    const [stretches, stations] = [ground.stretches.map((_, i) => i), ground.of.map((_, s) => s)];
    this.renew("high", stretches, stations);
    this.renew("low", stretches, stations);
  }

  /** Reckons these stretches and stations anew; the limits on one side of them have changed. */
  renew(side: "high" | "low", stretches: readonly number[], stations: readonly number[]): void {
    for (const i of stretches) {
      if (side === "high") this.tripsOver += replaced(this.over, i, this.tripsIn(i, side));
      else this.tripsUnder += replaced(this.under, i, this.tripsIn(i, side));
    }
    for (const s of stations) {
      if (side === "high") this.lostL += replaced(this.lost, s, this.lostAt(s));
      else this.shortL += replaced(this.short, s, this.shortAt(s));
    }
  }

  get tripsPerSeason(): number {
    return this.tripsOver + this.tripsUnder;
  }

  /** Share of nights on which a station's broken lateral is seen in some set; its broken outlet; its valve that never opens. */
  seen(s: number): { lateral: number; outlet: number; neverOpens: number } {
    return {
      lateral: this.breakAt(s, nth(this.ground.lateralLpm, s)).seen,
      outlet: this.breakAt(s, nth(this.ground.outletLpm, s)).seen,
      neverOpens: this.neverOpens(s).seen,
    };
  }

  private tripsIn(i: number, side: "high" | "low"): number {
    const { ground, acting } = this;
    if (!nth(ground.stretches, i).judged) return 0;
    const { high, low } = nth(acting.swings, i);
    return ground.seasonNights * (side === "high" ? high.above(nth(acting.high, i)) : low.under(nth(acting.low, i)));
  }

  private lostAt(s: number): number {
    const { lateralLpm, outletLpm, assumed } = this.ground;
    const of = (per100: number, lpm: number): number => (per100 > 0 ? (per100 / 100) * this.breakAt(s, lpm).litres : 0);
    return of(assumed.lateralsPer100, nth(lateralLpm, s)) + of(assumed.outletsPer100, nth(outletLpm, s));
  }

  private shortAt(s: number): number {
    return (NEVER_OPENS_PER_100 / 100) * this.neverOpens(s).litres;
  }

  private breakAt(s: number, lpm: number): Fate {
    const { acting } = this;
    let [seen, litres] = [0, 0];
    for (const { i, stretch } of this.ground.of[s] as Visit[]) {
      const again = acting.again[i] as number | null;
      const over = (acting.high[i] as number) - lpm / stretch.expectedLpm;
      const best = stretch.judged ? Math.max(seen, (acting.swings[i] as Swings).high.above(over)) : seen;
      const all = (lpm * stretch.seconds) / 60;
      // What is told and not shut off runs on.
      if (again === null) litres += all;
      else {
        const { holdOffS, persistenceS } = acting.judging[i] as Judging;
        const judging = (lpm * (holdOffS + persistenceS)) / 60;
        litres += (1 - best) * all + (best - seen) * (Math.min(all, judging) + again * judging);
      }
      seen = best;
    }
    return { seen, litres: this.untilFound(seen, litres) };
  }

  private neverOpens(s: number): Fate {
    const { acting } = this;
    let [seen, litres] = [0, 0];
    for (const { i, stretch, share } of this.ground.of[s] as Visit[]) {
      litres += (share * stretch.expectedLpm * stretch.seconds) / 60;
      if (!stretch.judged) continue;
      seen = Math.max(seen, (acting.swings[i] as Swings).low.under((acting.low[i] as number) + share * stretch.drawn));
    }
    return { seen, litres: this.untilFound(seen, litres) };
  }

  /** Litres of all nights until one of them shows it, or somebody walks past. */
  private untilFound(seen: number, litresANight: number): number {
    const nights = this.ground.nightsUnseen;
    return litresANight * (seen < 1e-9 ? nights : (1 - (1 - seen) ** nights) / seen);
  }
}

/** Puts a figure in the place of another; returns by how much it is more. */
function replaced(list: Float64Array, at: number, value: number): number {
  const more = value - nth(list, at);
  list[at] = value;
  return more;
}
