import { nth } from "../../checked.ts";
import type { SiteFile } from "../../site-file/schema.ts";
import { shareOf } from "../watched.ts";
import { actingOn } from "./acting.ts";
import type { Ground } from "./ground.ts";
import { Ledger } from "./ledger.ts";

/** What limits trip for nothing and lose (handbook#13-watched-night). */
export type BudgetFigures = {
  /** Trips for nothing in a season, with the 95 % interval of that mean from the simulated nights. */
  tripsPerSeason: number;
  low: number;
  high: number;
  litresAYear: number;
  /** Stations that run, and those whose break, or valve that never opens, is seen in at least one set on most nights. */
  stations: number;
  lateralsSeen: number;
  outletsSeen: number;
  neverOpensSeen: number;
  /** Share of run time that is judged; null where nothing runs. */
  watched: number | null;
};

const MOST_NIGHTS = 0.5;
const Z95 = 1.96;

/** @param site the ground's own but for limits and hold-offs */
export function figuresOf(ground: Ground, site: SiteFile): BudgetFigures {
  const acting = actingOn(ground, site);
  const ledger = new Ledger(ground, acting);
  const byNight = new Float64Array(ground.nights);
  for (const [i, { judged }] of ground.stretches.entries())
    if (judged)
      for (const [n, trips] of ground
        .tripsByNight(i, nth(acting.judging, i), nth(acting.high, i), nth(acting.low, i))
        .entries())
        byNight[n] = nth(byNight, n) + trips;
  const mean = byNight.reduce((a, b) => a + b, 0) / ground.nights;
  const variance = byNight.reduce((a, b) => a + (b - mean) ** 2, 0) / Math.max(1, ground.nights - 1);
  const half = Z95 * Math.sqrt(variance / ground.nights);
  const running = ground.of.flatMap((mine, s) => (mine.length > 0 ? [ledger.seen(s)] : []));
  const season = ground.seasonNights;
  return {
    tripsPerSeason: season * mean,
    low: season * Math.max(0, mean - half),
    high: season * (mean + half),
    litresAYear: ledger.lostL,
    stations: running.length,
    lateralsSeen: running.filter((x) => x.lateral >= MOST_NIGHTS).length,
    outletsSeen: running.filter((x) => x.outlet >= MOST_NIGHTS).length,
    neverOpensSeen: running.filter((x) => x.neverOpens >= MOST_NIGHTS).length,
    watched: shareOf(
      ground.stretches.map((s, i) => {
        const { holdOffS, persistenceS } = nth(acting.judging, i);
        const left = s.judged ? s.seconds - holdOffS : 0;
        return {
          runS: s.stations.length * s.seconds,
          watchedS: left >= persistenceS ? s.stations.length * left : 0,
        };
      }),
    ),
  };
}
