import { got, nth } from "../checked.ts";
import { BROKEN_LATERAL_SHARE } from "../bench/faults/station-faults.ts";
import { plan } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import { drawnShare, isJudged, type JudgedNight } from "./judgement.ts";
import { setLimits } from "../judge/set-limits.ts";
import { setRatio } from "../judge/set-ratio.ts";
import { stretchesOf } from "./stretches.ts";

/** What would make a station's broken lateral seen, and what it costs; null: that does not help. */
export type Remedy = {
  stationId: string;
  /** The set in which it comes nearest to being seen. */
  withIds: string[];
  /** A high limit of so many percent would see it there; null where ordinary nights would trip it. */
  highPercent: number | null;
  /** Seen with that set learned. */
  setLearned: boolean;
  /** So many at once in its programs, and how much later the night ends. */
  fewerAtOnce: { atOnce: number; laterMin: number } | null;
};

/** A limit nearer than this to what is drawn trips on the supply's own variation and the sensor's noise. */
const CLEAR_OF_NOISE = 0.05;

/** For stations whose broken lateral passes unseen, the cheapest ways to see it. */
export function remediesFor(night: JudgedNight, policy: Policy, stationIds: readonly string[]): Remedy[] {
  const { w, stretches, drawn } = night;
  const { site } = w;
  const end = Math.max(...stretches.map((s) => s.to));
  return stationIds.flatMap((stationId): Remedy[] => {
    const at = got(w.stationIndex, stationId);
    const own = expectedFlow(nth(site.stations, at))?.lpm ?? 0;
    const lateral = BROKEN_LATERAL_SHARE * own;
    // Where its break is the largest share of what is expected.
    const sets = stretches.flatMap((s, i) => {
      if (!s.stations.includes(at)) return [];
      const stations = s.stations.map((x) => nth(site.stations, x));
      const limit = setLimits(policy, stations, 0, setRatio(site, stations));
      const really = limit.expectedLpm * (nth(drawn, i) / setRatio(site, stations));
      return [{ s, stations, limit, really, ratio: (really + lateral) / limit.expectedLpm }];
    });
    const best =
      sets.filter((x) => isJudged(x.s, policy) && x.limit.judged).sort((a, b) => b.ratio - a.ratio)[0] ??
      sets.sort((a, b) => b.ratio - a.ratio)[0];
    if (!best) return [];
    const percent = Math.floor(100 * (best.ratio - 1) - 1e-9);
    const calm = best.really * (1 + CLEAR_OF_NOISE) < best.limit.expectedLpm * (1 + percent / 100);
    const learned = setLimits(
      policy,
      best.stations,
      0,
      best.really / best.stations.reduce((sum, x) => sum + (expectedFlow(x)?.lpm ?? 0), 0),
    );
    return [
      {
        stationId,
        withIds: best.s.stations.map((x) => nth(site.stations, x).id),
        highPercent: isJudged(best.s, policy) && percent >= 1 && calm ? percent : null,
        setLearned: best.s.stations.length > 1 && isJudged(best.s, policy) && best.really + lateral > learned.highLpm,
        fewerAtOnce: fewerAtOnce(night, policy, at, lateral, end),
      },
    ];
  });
}

/** Fewer at once in the programs of a station, until its break is seen in a set. */
function fewerAtOnce(
  { w, date }: JudgedNight,
  policy: Policy,
  at: number,
  lateralLpm: number,
  end: number,
): Remedy["fewerAtOnce"] {
  const { site } = w;
  const id = nth(site.stations, at).id;
  const mine = site.programs.filter((p) => p.enabled !== false && p.runs.some((r) => r.stationId === id));
  const most = Math.max(...mine.map((p) => p.maxStationsAtOnce ?? 1));
  for (const atOnce of [...new Set([Math.floor(most / 2), Math.floor(most / 4), 2, 1])].filter(
    (n) => n >= 1 && n < most,
  )) {
    const changed: SiteFile = {
      ...site,
      programs: site.programs.map((p) =>
        mine.includes(p) ? { ...p, maxStationsAtOnce: Math.min(atOnce, p.maxStationsAtOnce ?? 1) } : p,
      ),
    };
    const ww = waterworks(changed);
    const stretches = stretchesOf(ww, plan(changed, date).runs);
    const seen = stretches.some((s) => {
      if (!s.stations.includes(at) || !isJudged(s, policy)) return false;
      const stations = s.stations.map((x) => nth(site.stations, x));
      const limit = setLimits(policy, stations, 0, setRatio(site, stations));
      return (
        limit.judged &&
        limit.expectedLpm * (drawnShare(ww, date, s.stations, s.from) / setRatio(site, stations)) + lateralLpm >
          limit.highLpm
      );
    });
    if (seen) return { atOnce, laterMin: (Math.max(...stretches.map((s) => s.to)) - end) / 60 };
  }
  return null;
}
