import { nth } from "../../checked.ts";
import { policyOfSet, withInherited } from "../../judge/policy-of.ts";
import { setLimits } from "../../judge/set-limits.ts";
import { setRatio } from "../../judge/set-ratio.ts";
import { holdOffS } from "../../judge/system.ts";
import type { Policy, SiteFile } from "../../site-file/schema.ts";
import type { Ground, Swings } from "./ground.ts";
import { type Judging, judgingOf } from "./held.ts";

/** Limits as they act on each stretch of a night. */
export type Acting = {
  /** The flows at which it trips, as shares of what is expected. */
  high: Float64Array;
  low: Float64Array;
  judging: Judging[];
  swings: Swings[];
  /** How often more a set that tripped is judged before what broke is shut off; null: it is told only, and runs on. */
  again: (number | null)[];
};

/** How the limits of a site act on the stretches of its night; the site differs from the ground's in limits and hold-offs only. */
export function actingOn(ground: Ground, asked: SiteFile): Acting {
  const site = withInherited(asked);
  const w = { ...ground.w, site };
  const policies = ground.stretches.map((s) => policyOfSet(w, s.stations));
  const limits = ground.stretches.map((s) => {
    const stations = s.stations.map((x) => nth(site.stations, x));
    return setLimits(site.policy, stations, 0, setRatio(site, stations));
  });
  const judging = ground.stretches.map((s, i) => {
    const mainlines = site.mainlines.flatMap((_, m) => (w.systemOfMainline[m] === s.system ? [m] : []));
    return judgingOf(nth(policies, i), holdOffS(w, { mainlines }, s.stations));
  });
  return {
    high: Float64Array.from(limits, (l) => l.highLpm / l.expectedLpm),
    low: Float64Array.from(limits, (l) => l.lowLpm / l.expectedLpm),
    judging,
    swings: judging.map((how, i) => ground.swing(i, how)),
    again: policies.map(judgedAgain),
  };
}

/** A retest judges the set once more, and a search its stations one by one: the broken one at once if it is lucky, so one judging is counted. */
function judgedAgain({ highResponse, retest }: Policy): number | null {
  if (highResponse === "notify") return null;
  return (retest ? 1 : 0) + (highResponse === "findAndIsolate" ? 1 : 0);
}
