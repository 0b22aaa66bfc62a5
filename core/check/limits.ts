import { mainHoldOffS } from "../site-file/hold-off.ts";
import { nth } from "../checked.ts";
import type { ProgramStart } from "../dispatch/queue.ts";
import { deliverableLpm } from "../hydraulics/deliverable.ts";
import { policyOfSet, withInherited } from "../judge/policy-of.ts";
import { setLimits } from "../judge/set-limits.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Station } from "../site-file/schema.ts";
import { everyNight } from "./every-night.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

/** A limit above this share of what the supply can deliver never trips (handbook#8-limits). */
const REACHABLE = 0.9;

/** Limits that cannot do what they are there for: out of reach, inside the station's own spread, never judged, or missing. */
export function checkLimits(asked: Waterworks): Finding[] {
  const site = withInherited(asked.site);
  const w = site === asked.site ? asked : { ...asked, site };
  const { policy } = site;
  const found: Finding[] = [];
  if (policy.basis === "graded" && (policy.bands ?? []).length === 0)
    found.push(
      finding(
        "warning",
        "noBands",
        "policy.bands",
        site.site.id,
        "The limits are graded, but no band is entered; the plain percentages hold.",
      ),
    );
  if (policy.persistenceS < 10)
    found.push(
      finding(
        "note",
        "persistenceShort",
        "policy.persistenceS",
        site.site.id,
        `A persistence of ${policy.persistenceS} s trips on any gust of pressure.`,
      ),
    );
  site.pocs.forEach((p, i) => {
    if (p.burstLimitLpm === undefined && pocSensing(w, i).sensors.length > 0)
      found.push(
        finding(
          "note",
          "noBurstLimit",
          `pocs[${i}].burstLimitLpm`,
          p.id,
          `${p.name} has no burst limit: a main that opens wide runs through hold-off and persistence before anything shuts it.`,
        ),
      );
  });
  return [...found, ...outOfReach(w), ...insideSpread(w), ...neverJudged(w, everyNight(asked.site).starts)];
}

function outOfReach(w: Waterworks): Finding[] {
  const { site } = w;
  return Array.from({ length: w.systemCount }, (_, system) => system).flatMap((system) => {
    const pocs = site.pocs.filter((_, p) => w.systemOfPoc[p] === system);
    const most = pocs.map((p) => deliverableLpm(site, p));
    if (pocs.length === 0 || most.some((m) => m === null)) return [];
    const deliverable = most.reduce((a: number, m) => a + (m as number), 0);
    const out = site.stations.filter(
      (s, i) =>
        s.monitored !== false &&
        w.systemOfMainline[nth(w.stationMainline, i)] === system &&
        setLimits(site.policy, [s]).highLpm > REACHABLE * deliverable,
    );
    if (out.length === 0) return [];
    const first = nth(out, 0);
    return [
      finding(
        "warning",
        "limitNeverReached",
        `stations[${site.stations.indexOf(first)}]`,
        first.id,
        `${named(out)}: the high limit is above 90 % of the ${flowWords(site, deliverable)} that ${pocs.map((p) => p.name).join(" and ")} can deliver with nothing left of the pressure, so it would never trip. Tighten it, or look for low pressure instead.`,
      ),
    ];
  });
}

function insideSpread(w: Waterworks): Finding[] {
  const { site } = w;
  const inside = site.stations.filter((s) => {
    const e = expectedFlow(s);
    if (e?.from !== "learned" || !s.learned || s.monitored === false) return false;
    const { highLpm, lowLpm } = setLimits(site.policy, [s]);
    return highLpm - e.lpm < 2 * s.learned.sdLpm || e.lpm - lowLpm < 2 * s.learned.sdLpm;
  });
  if (inside.length === 0) return [];
  const first = nth(inside, 0);
  return [
    finding(
      "warning",
      "limitInsideSpread",
      `stations[${site.stations.indexOf(first)}]`,
      first.id,
      `${named(inside)}: a limit lies within two standard deviations of what was learned, so it will trip for nothing. Widen it for ${inside.length > 1 ? "them" : "it"}, or learn again when the supply is calm.`,
    ),
  ];
}

/** Runs, or their last cycles, shorter than hold-off and persistence together: no limit ever judges them. */
function neverJudged(w: Waterworks, starts: ProgramStart[]): Finding[] {
  const { site } = w;
  const cycles = new Map<number, number[]>();
  for (const start of starts)
    for (const e of start.entries) cycles.set(e.station, [...(cycles.get(e.station) ?? []), ...e.cycles]);
  const needed = (i: number): number => {
    const system = w.systemOfMainline[nth(w.stationMainline, i)];
    const mains = site.mainlines.flatMap((m, k) => (w.systemOfMainline[k] === system ? [mainHoldOffS(m)] : []));
    return Math.max(...mains, site.stations[i]?.holdOffS ?? 0) + policyOfSet(w, [i]).persistenceS;
  };
  const watched = [...cycles].filter(([i]) => site.stations[i]?.monitored !== false);
  const never = watched.filter(([i, list]) => Math.max(...list) < needed(i)).map(([i]) => nth(site.stations, i));
  const some = watched
    .filter(([i, list]) => Math.max(...list) >= needed(i) && Math.min(...list) < needed(i))
    .map(([i]) => nth(site.stations, i));
  return [
    ...(never.length > 0
      ? [
          finding(
            "warning",
            "persistenceLongerThanRun",
            `stations[${site.stations.indexOf(nth(never, 0))}]`,
            nth(never, 0).id,
            `${named(never)}: every run is over before hold-off and persistence are, so no limit ever judges ${never.length > 1 ? "them" : "it"}. Longer cycles, or a shorter persistence.`,
          ),
        ]
      : []),
    ...(some.length > 0
      ? [
          finding(
            "note",
            "shortCycleUnwatched",
            `stations[${site.stations.indexOf(nth(some, 0))}]`,
            nth(some, 0).id,
            `${named(some)}: the shortest cycle is over before hold-off and persistence are, so it is never judged.`,
          ),
        ]
      : []),
  ];
}

function named(stations: Station[]): string {
  const shown = stations
    .slice(0, 3)
    .map((s) => `${s.number} ${s.name}`)
    .join(", ");
  return stations.length > 3 ? `${shown} and ${stations.length - 3} more` : shown;
}
