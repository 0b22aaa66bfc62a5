import { nth } from "../../checked.ts";
import type { Policy } from "../../site-file/schema.ts";
import { spreadOf } from "../judgement.ts";
import type { Acting } from "./acting.ts";
import type { Ground } from "./ground.ts";
import { Ledger } from "./ledger.ts";
import { OwnPercents } from "./own-percents.ts";
import { actingOf, type Levers, percentsOf, plainActing, plainLevers, type Percents, type Ranges } from "./levers.ts";

/** Limits that were tried: what they trip for nothing in a season, and lose in a year. */
export type Tried = { levers: Levers; trips: number; litres: number };
type Scored = Tried & { cost: number };

/** A litre that a valve which never opens leaves out counts a tenth of one that is lost: low limits are worth something, and never the water. */
const SHORT_WEIGHT = 0.1;
const PERSISTENCES_S = [10, 15, 20, 30, 45, 60, 90, 120, 180, 240, 300, 450, 600];
/** Percentages tried everywhere first; what lies between is tried from the best of them. */
const PERCENTS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 16, 18, 20, 23, 26, 30, 35, 40, 50, 60, 80, 100];
const STEPS = [-13, -8, -5, -3, -2, -1, 1, 2, 3, 5, 8, 13];
/** Percentages by how far a station strays, in standard deviations, and what is added to all. */
const TIMES_SPREAD = [1, 2, 3, 4, 5];
const BESIDES = [0, 2, 4];
/** So many persistences are followed further at each price. */
const STARTS = 2;
/** Of sites and mains: what is fine is left to the stations. */
const WIDE_STEPS = [-6, -2, 2, 6];
const BANDS = 5;
const ROUNDS = 4;
/** Saves nothing that could be told. */
const NOTHING = 1e-7;

/** Percentages of every station tried on one side, with what they cost there: high ones trip and let water go, low ones trip and leave valves unseen. */
type Swept = { persistenceS: number; percents: number[]; trips: number; litres: number };
/** A policy's school of judging and responses, with everything that sweeps of the whole site have found of it. */
export type Family = { policy: Policy; high: Swept[]; low: Swept[] };

/** Looks for the limits that lose the least water at a price a trip: the whole site first, then mains, then stations; or bands of the whole. */
export class BudgetSearch {
  readonly tried: Tried[] = [];
  private readonly ground: Ground;
  private readonly ranges: Ranges;
  private readonly holdOffS: number | null;
  private readonly stop: () => boolean;
  private readonly plain = new Map<string, Acting>();

  constructor(ground: Ground, ranges: Ranges, holdOffS: number | null, stop: () => boolean) {
    this.ground = ground;
    this.ranges = ranges;
    this.holdOffS = holdOffS;
    this.stop = stop;
  }

  get persistences(): number[] {
    const [from, to] = this.ranges.persistenceS;
    return [...new Set([from, ...PERSISTENCES_S.filter((p) => p >= from && p <= to)])];
  }

  private get percents(): number[] {
    const [from, to] = this.ranges.percent;
    return [...new Set([from, ...PERCENTS.filter((p) => p >= from && p <= to), to])];
  }

  /** One persistence with every percentage, alike everywhere and by how far each station strays: once for all prices. */
  sweep(family: Family, persistenceS: number): void {
    for (const percents of this.everywhere()) {
      const levers = this.withPercents(family, persistenceS, percents, percents);
      const ledger = this.ledgerOf(levers);
      family.high.push({ persistenceS, percents, trips: ledger.tripsOver, litres: ledger.lostL });
      family.low.push({ persistenceS, percents, trips: ledger.tripsUnder, litres: SHORT_WEIGHT * ledger.shortL });
    }
  }

  private everywhere(): number[][] {
    const { site } = this.ground.w;
    const alike = this.percents.map((p) => site.stations.map(() => p));
    const spreads = site.stations.map((s) => 100 * spreadOf(s));
    if (new Set(spreads).size < 2) return alike;
    const byOwn = TIMES_SPREAD.flatMap((times) =>
      BESIDES.map((more) => spreads.map((sd) => this.within(Math.round(more + times * sd)))),
    );
    return [...alike, ...byOwn];
  }

  /** The commonest percentage is the site's, the others stations' own. */
  private withPercents({ policy }: Family, persistenceS: number, high: number[], low: number[]): Levers {
    const [highPercent, lowPercent] = [commonest(high), commonest(low)];
    const plain = plainLevers(this.ground, { ...policy, basis: "station", persistenceS, highPercent, lowPercent });
    return {
      ...plain,
      holdOffS: this.holdOffS,
      stations: plain.stations.map((_, s) => ({
        ...(high[s] === highPercent ? {} : { highPercent: high[s] }),
        ...(low[s] === lowPercent ? {} : { lowPercent: low[s] }),
      })),
    };
  }

  /**
   * The best at a price with percentages of every station's own, and with bands by the whole set's flow.
   *
   * @param near what was best at a price not far from it
   */
  at(families: readonly Family[], price: number, near: readonly Levers[]): Tried[] {
    const swept = families
      .flatMap((family) => this.bestSwept(family, price))
      .sort((a, b) => a.cost - b.cost)
      .map((x) => x.levers);
    const own = [...swept.slice(0, STARTS), ...near.filter((l) => l.policy.basis === "station")].map((l) =>
      this.stations(this.climb(this.score(l, price), price, (x) => this.besides(x)).levers, price),
    );
    const banded = [this.banded(nth(swept, 0)), ...near.filter((l) => l.policy.basis === "graded")].map((l) =>
      this.climb(this.score(l, price), price, (x) => this.otherBands(x)),
    );
    const least = (list: Scored[]): Scored => list.reduce((a, b) => (b.cost < a.cost ? b : a));
    return [least(own), least(banded)];
  }

  private banded(levers: Levers): Levers {
    const { policy } = levers;
    const bands = this.bandsFrom().map((fromLpm) => ({ fromLpm, percent: policy.highPercent }));
    return { ...levers, stations: levers.stations.map(() => ({})), policy: { ...policy, basis: "graded", bands } };
  }

  /** A tried set of limits, with what it costs at a price. */
  private score(levers: Levers, price: number): Scored {
    const ledger = this.ledgerOf(levers);
    const found = { levers, trips: ledger.tripsPerSeason, litres: ledger.lostL };
    this.tried.push(found);
    return { ...found, cost: costOf(ledger, price) };
  }

  private ledgerOf(levers: Levers): Ledger {
    return new Ledger(this.ground, actingOf(this.ground, levers, this.plainOf(levers)));
  }

  /** With nothing of its own on mains and stations; asked for again and again with other percentages, which it does not hang on. */
  private plainOf(levers: Levers): Acting {
    const { policy } = levers;
    if (policy.basis === "graded") return plainActing(this.ground, levers);
    const key = JSON.stringify([
      policy.persistenceS,
      policy.retest,
      policy.judge,
      policy.highResponse,
      policy.retestWaitS,
    ]);
    const known = this.plain.get(key);
    if (known) return known;
    const made = plainActing(this.ground, levers);
    this.plain.set(key, made);
    return made;
  }

  /** Of each persistence, the high and low limits of the sweeps that cost least together: neither hangs on the other. */
  private bestSwept(family: Family, price: number): { levers: Levers; cost: number }[] {
    const least = (list: readonly Swept[], persistenceS: number): Swept & { cost: number } =>
      list
        .filter((x) => x.persistenceS === persistenceS)
        .map((x) => ({ ...x, cost: x.litres + price * x.trips }))
        .reduce((a, b) => (b.cost < a.cost ? b : a));
    return [...new Set(family.high.map((x) => x.persistenceS))].map((persistenceS) => {
      const [high, low] = [least(family.high, persistenceS), least(family.low, persistenceS)];
      return {
        levers: this.withPercents(family, persistenceS, high.percents, low.percents),
        cost: high.cost + low.cost,
      };
    });
  }

  /** Takes the first change that costs less, again and again, until a round brings none. */
  private climb(
    from: Scored,
    price: number,
    changes: (levers: Levers) => Iterable<(levers: Levers) => Levers>,
  ): Scored {
    let best = from;
    for (let round = 0; round < ROUNDS; round++) {
      const before = best.cost;
      for (const change of changes(best.levers)) {
        if (this.stop()) return best;
        const next = this.score(change(best.levers), price);
        if (next.cost < best.cost * (1 - NOTHING)) best = next;
      }
      if (best.cost >= before * (1 - NOTHING)) break;
    }
    return best;
  }

  /** Other figures for the site, and for each main where there are several. */
  private *besides(levers: Levers): Generator<(levers: Levers) => Levers> {
    const { w } = this.ground;
    yield* this.otherPercents(
      (l) => l.policy,
      (l, p) => ({ ...l, policy: { ...l.policy, ...(p as Policy) } }),
      levers,
    );
    const used = new Set(w.stationMainline);
    if (used.size < 2) return;
    for (const m of used) {
      const put = (l: Levers, p: Levers["mains"][number]): Levers => ({
        ...l,
        mains: l.mains.map((x, i) => (i === m ? { ...x, ...p } : x)),
      });
      const at = (l: Levers): Percents => {
        const s = w.stationMainline.indexOf(m);
        const { high, low } = percentsOf(this.ground, { ...l, stations: l.stations.map(() => ({})) });
        return { highPercent: nth(high, s), lowPercent: nth(low, s) };
      };
      yield* this.otherPercents(at, put, levers);
      for (const persistenceS of this.persistences) yield (l) => put(l, { persistenceS });
    }
  }

  private *otherPercents(
    at: (levers: Levers) => Percents,
    put: (levers: Levers, values: Percents) => Levers,
    levers: Levers,
  ): Generator<(levers: Levers) => Levers> {
    for (const key of ["highPercent", "lowPercent"] as const)
      for (const step of WIDE_STEPS) {
        const from = at(levers)[key] ?? 0;
        if (this.within(from + step) === from + step)
          yield (l) => put(l, { [key]: this.within((at(l)[key] ?? 0) + step) });
      }
  }

  private *otherBands(levers: Levers): Generator<(levers: Levers) => Levers> {
    for (const b of (levers.policy.bands ?? []).keys())
      for (const step of STEPS)
        yield (l) => ({
          ...l,
          policy: {
            ...l.policy,
            bands: (l.policy.bands ?? []).map((x, i) =>
              i === b ? { ...x, percent: this.within(x.percent + step) } : x,
            ),
          },
        });
    for (const persistenceS of this.persistences) yield (l) => ({ ...l, policy: { ...l.policy, persistenceS } });
  }

  private within(percent: number): number {
    const [from, to] = this.ranges.percent;
    return Math.max(from, Math.min(to, percent));
  }

  /** Bands that part the night's sets by their flow into equal parts. */
  private bandsFrom(): number[] {
    const flows = this.ground.stretches.map((s) => s.expectedLpm).sort((a, b) => a - b);
    const cuts = Array.from({ length: BANDS - 1 }, (_, k) => nth(flows, Math.floor(((k + 1) * flows.length) / BANDS)));
    return [...new Set([0, ...cuts.map((f) => Math.round(f))])];
  }

  /** Every station by itself. */
  private stations(from: Levers, price: number): Scored {
    const own = new OwnPercents(this.ground, from, actingOf(this.ground, from, this.plainOf(from)), (l) =>
      costOf(l, price),
    );
    const others = (percent: number): number[] => STEPS.map((d) => this.within(percent + d));
    for (let round = 0; round < ROUNDS && !this.stop() && own.round(others); round++);
    const { ledger } = own;
    const found = { levers: own.levers(), trips: ledger.tripsPerSeason, litres: ledger.lostL };
    this.tried.push(found);
    return { ...found, cost: costOf(ledger, price) };
  }
}

const costOf = (ledger: Ledger, price: number): number =>
  ledger.lostL + SHORT_WEIGHT * ledger.shortL + price * ledger.tripsPerSeason;

function commonest(list: readonly number[]): number {
  const times = new Map<number, number>();
  for (const x of list) times.set(x, (times.get(x) ?? 0) + 1);
  return [...times].reduce((a, b) => (b[1] > a[1] ? b : a), [0, 0])[0];
}
