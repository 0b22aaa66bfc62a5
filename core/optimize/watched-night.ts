import { nth } from "../checked.ts";
import { BROKEN_LATERAL_SHARE } from "../bench/faults/station-faults.ts";
import { playNight } from "../dispatch/plan.ts";
import { policyOfSet, withInherited } from "../judge/policy-of.ts";
import { setLimits } from "../judge/set-limits.ts";
import { setRatio } from "../judge/set-ratio.ts";
import type { LimitsOf } from "../limits/budget/take.ts";
import { drawnShare } from "../limits/judgement.ts";
import { type Stretch, stretchesBetween } from "../limits/stretches.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { playedScore, shortByStation } from "./night-score.ts";

/** What the limits as they stand see on one night (handbook#13-watched-night). */
export type Watched = {
  makespanS: number;
  /** Stations that run; those whose broken lateral is seen in at least one set, and in every set that they run in. */
  stations: number;
  lateralsSeen: number;
  lateralsSeenInEvery: number;
  /** Share of run time that is judged; null where nothing runs. */
  watched: number | null;
};
/**
 * With the programs that it came of; stations whose break is seen nowhere, and the seconds that each stays short. `limits`: what was set for it, and what they trip for nothing in a season; null: as they
 * stand.
 */
export type WatchedNight = Watched & {
  programs: Program[];
  unseen: number[];
  short: Map<number, number>;
  limits: (LimitsOf & { tripsPerSeason: number }) | null;
};

/** A set draws between these shares of the sum of its parts; what is seen at neither or at both needs no network. */
const DRAWS = { least: 0.7, most: 1.03 };

/** Plays nights of one site, with whatever order and numbers its programs have, and says what its limits see on them. What sets draw is solved once each. */
export class NightWatch {
  private readonly w: Waterworks;
  private readonly date: string;
  private readonly lpm: number[];
  private readonly drawn = new Map<string, number>();
  private readonly limits = new Map<
    string,
    { expectedLpm: number; highLpm: number; judged: boolean; persistenceS: number }
  >();

  constructor(site: SiteFile, date: string) {
    this.w = waterworks(withInherited(site));
    this.date = date;
    this.lpm = site.stations.map((s) => expectedFlow(s)?.lpm ?? 0);
  }

  /** The night that the site has with these programs. */
  watch(programs: Program[]): WatchedNight {
    const w = { ...this.w, site: { ...this.w.site, programs } };
    const night = playNight(w, this.date);
    const stretches = stretchesBetween(
      w,
      night.runs.map((r) => ({ s: r.station, from: r.start, to: r.end })),
    );
    const seen = new Map<number, { some: boolean; every: boolean }>();
    let [runS, judgedS] = [0, 0];
    for (const stretch of stretches) {
      const key = stretch.stations.join();
      const limit = this.limitOf(key, stretch);
      const judged = limit.judged && stretch.to - stretch.judgedFrom >= Math.max(1, limit.persistenceS);
      runS += stretch.stations.length * (stretch.to - stretch.from);
      if (judged) judgedS += stretch.stations.length * (stretch.to - stretch.judgedFrom);
      for (const s of stretch.stations) {
        const here = judged && this.sees(key, stretch, limit, s);
        const known = seen.get(s);
        seen.set(s, { some: here || known?.some === true, every: here && known?.every !== false });
      }
    }
    const count = (test: (x: { some: boolean; every: boolean }) => boolean): number =>
      [...seen.values()].filter(test).length;
    return {
      programs,
      makespanS: playedScore(w, night)[1],
      stations: seen.size,
      lateralsSeen: count((x) => x.some),
      lateralsSeenInEvery: count((x) => x.every),
      watched: runS > 0 ? judgedS / runS : null,
      unseen: [...seen].flatMap(([s, x]) => (x.some ? [] : [s])),
      short: shortByStation(night),
      limits: null,
    };
  }

  private limitOf(key: string, { stations }: Stretch) {
    const known = this.limits.get(key);
    if (known) return known;
    const { site } = this.w;
    const set = stations.map((s) => nth(site.stations, s));
    const { persistenceS } = policyOfSet(this.w, stations);
    const made = { ...setLimits(site.policy, set, 0, setRatio(site, set)), persistenceS };
    this.limits.set(key, made);
    return made;
  }

  private sees(
    key: string,
    stretch: Stretch,
    { expectedLpm, highLpm }: { expectedLpm: number; highLpm: number },
    s: number,
  ): boolean {
    const { site } = this.w;
    const ratio = setRatio(
      site,
      stretch.stations.map((x) => nth(site.stations, x)),
    );
    const parts = expectedLpm / ratio;
    const needed = (highLpm - BROKEN_LATERAL_SHARE * nth(this.lpm, s)) / parts;
    if (DRAWS.most <= needed) return false;
    if (DRAWS.least > needed) return true;
    let drawn = this.drawn.get(key);
    if (drawn === undefined) {
      drawn = drawnShare(this.w, this.date, stretch.stations, stretch.from);
      this.drawn.set(key, drawn);
    }
    return drawn > needed;
  }
}
