import { got, nth } from "../checked.ts";
import { BROKEN_LATERAL_SHARE, BROKEN_OUTLET_LPM } from "../bench/faults/station-faults.ts";
import type { PlanRun } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { setLimits } from "../judge/set-limits.ts";
import { withInherited } from "../judge/policy-of.ts";
import { setRatio } from "../judge/set-ratio.ts";
import { type Taught, type TaughtSet, taughtOf } from "../judge/taught-sets.ts";
import { stretchesOf, systemIsSensed } from "./stretches.ts";

/** What a limit can see at one station, in one company (handbook#8-choosing). Flows in L/min, ratios of expected. */
export type Sight = {
  with: string[];
  expectedLpm: number;
  highLpm: number;
  lowLpm: number;
  /** (what it draws + break) ÷ expected of the whole set. */
  outletRatio: number;
  lateralRatio: number;
  /** False where nothing judges the set: none of it is monitored, or not every connection of its system has a flow sensor. Then nothing is seen. */
  judged: boolean;
  seesOutlet: boolean;
  seesLateral: boolean;
  /** A valve that never opens is unseen when its flow is under l·ΣE. */
  seesNeverOpens: boolean;
};
export type StationSight = {
  stationId: string;
  expectedLpm: number;
  alone: Sight;
  /** The largest company it keeps in the plan; equals alone where it always runs by itself. */
  fullest: Sight;
  /** Of all sets of the plan that it runs in, the one in which its broken lateral stands out most: unseen here is unseen all night. */
  best: Sight;
  sensorMinLpm: number | null;
  /** What the sources yield together, L/min; null where one of them states none. */
  deliverableLpm: number | null;
};

/**
 * Sight of every station with a flow figure, alone and in the fullest set of the runs given.
 *
 * @param sets what nights say that sets draw; one of which nothing is known draws the sum of its parts
 */
export function sightOf(asked: SiteFile, runs: PlanRun[], sets: readonly TaughtSet[] = []): StationSight[] {
  const site = withInherited(asked);
  const taught = taughtOf(site, sets);
  const w = waterworks(site);
  const flow = site.stations.map((s) => expectedFlow(s)?.lpm ?? 0);
  /** By station: the different sets it runs in. */
  const together = site.stations.map(() => new Map<string, number[]>());
  for (const { stations } of stretchesOf(w, runs))
    for (const s of stations) together[s]?.set(stations.join(), stations);
  return site.stations.flatMap((s, i) => {
    const expected = expectedFlow(s);
    if (!expected || expected.lpm <= 0) return [];
    const mine = [...nth(together, i).values()];
    const total = (set: number[]): number => set.reduce((sum, x) => sum + nth(flow, x), 0);
    const fullest = mine.reduce((most, set) => (total(set) > total(most) + 1e-9 ? set : most), [i]);
    const company = (set: number[]): Station[] => set.map((x) => nth(site.stations, x));
    // Flow is judged as the sum over the connected system's points of connection, so range and supply are theirs together.
    const system = nth(w.systemOfMainline, nth(w.stationMainline, i));
    const sensed = systemIsSensed(w, system);
    const pocs = site.pocs.filter((_, p) => w.systemOfPoc[p] === system);
    const sensors = pocs.flatMap((p) => pocSensing(w, got(w.pocIndex, p.id)).sensors);
    const minima = sensors.map((d) => sensorRange(d).minLpm);
    const yields = site.sources
      .filter((x) => x.enabled !== false && pocs.some((p) => p.sourceIds.includes(x.id)))
      .map((x) => x.yieldLpm);
    return [
      {
        stationId: s.id,
        expectedLpm: expected.lpm,
        alone: sight(site, taught, sensed, s, [s]),
        fullest: sight(site, taught, sensed, s, company(fullest)),
        best:
          mine.length === 0
            ? sight(site, taught, sensed, s, [s])
            : mine
                .map((set) => sight(site, taught, sensed, s, company(set)))
                .reduce((a, b) => (margin(b) > margin(a) ? b : a)),
        sensorMinLpm:
          minima.length > 0 && minima.every((m) => m !== null)
            ? minima.reduce((a: number, m) => a + (m ?? 0), 0)
            : null,
        deliverableLpm:
          yields.length > 0 && yields.every((v) => v !== undefined)
            ? yields.reduce((a: number, v) => a + (v ?? 0), 0)
            : null,
      },
    ];
  });
}

/** How far a broken lateral stands over the limit, as a share of what is expected. */
const margin = (at: Sight): number => at.lateralRatio - at.highLpm / at.expectedLpm;

function sight(site: SiteFile, taught: Taught, sensed: boolean, station: Station, set: Station[]): Sight {
  const ratio = setRatio(site, set);
  const limits = setLimits(site.policy, set, 0, ratio);
  const { expectedLpm, highLpm, lowLpm } = limits;
  const judged = limits.judged && sensed;
  // What it really draws, of what is expected of it.
  const drawn = (set.length > 1 ? (taught(set.map((s) => s.id))?.ratio ?? ratio) : ratio) / ratio;
  const drawnLpm = drawn * expectedLpm;
  const own = drawn * ratio * (expectedFlow(station)?.lpm ?? 0);
  const outlet = BROKEN_OUTLET_LPM[station.emitter ?? "other"];
  const lateral = BROKEN_LATERAL_SHARE * own;
  return {
    with: set.map((s) => s.id),
    expectedLpm,
    highLpm,
    lowLpm,
    outletRatio: (drawnLpm + outlet) / expectedLpm,
    lateralRatio: (drawnLpm + lateral) / expectedLpm,
    judged,
    seesOutlet: judged && drawnLpm + outlet > highLpm,
    seesLateral: judged && drawnLpm + lateral > highLpm,
    seesNeverOpens: judged && drawnLpm - own < lowLpm,
  };
}
