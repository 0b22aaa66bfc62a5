import { nth } from "../checked.ts";
import type { PlanRun } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { policyOfSet } from "../judge/policy-of.ts";
import { type Stretch, stretchesOf } from "./stretches.ts";

/**
 * Watched minutes ÷ run minutes (handbook#8-limits): every valve change of a connected system starts its hold-off again, and a limit needs
 * persistence after it, so what remains of each unbroken stretch is what is really watched. Systems without a flow
 * sensor on every POC are not watched at all. Null without runs.
 */
export function watchedShare(site: SiteFile, runs: PlanRun[], w = waterworks(site)): number | null {
  return shareOf(watchedByStation(site, runs, w).values());
}

export function watchedByStation(
  site: SiteFile,
  runs: PlanRun[],
  w = waterworks(site),
): Map<string, { runS: number; watchedS: number }> {
  const by = watchedIn(stretchesOf(w, runs), (stretch) => policyOfSet(w, stretch.stations).persistenceS);
  return new Map([...by].map(([s, seen]) => [nth(site.stations, s).id, seen]));
}

/** Seconds run and seconds watched of each station, by place in the file. */
export function watchedIn(
  stretches: readonly Stretch[],
  persistence: number | ((stretch: Stretch) => number),
): Map<number, { runS: number; watchedS: number }> {
  const found = new Map<number, { runS: number; watchedS: number }>();
  for (const stretch of stretches) {
    const { from, to, judgedFrom, stations } = stretch;
    const persistenceS = typeof persistence === "number" ? persistence : persistence(stretch);
    const judged = to - judgedFrom;
    for (const s of stations) {
      const known = found.get(s) ?? { runS: 0, watchedS: 0 };
      found.set(s, {
        runS: known.runS + to - from,
        watchedS: known.watchedS + (judged > 0 && judged >= persistenceS ? judged : 0),
      });
    }
  }
  return found;
}

export function shareOf(seen: Iterable<{ runS: number; watchedS: number }>): number | null {
  let [run, watched] = [0, 0];
  for (const s of seen) {
    run += s.runS;
    watched += s.watchedS;
  }
  return run === 0 ? null : watched / run;
}
