import { mainHoldOffS } from "../../site-file/hold-off.ts";
import { nth } from "../../checked.ts";
import type { KeptProfile } from "../../profiles/profile.ts";
import type { PolicyOverride } from "../../site-file/policy-schema.ts";
import type { Policy, SiteFile } from "../../site-file/schema.ts";
import { type Acting, actingOn } from "./acting.ts";
import type { Ground } from "./ground.ts";

export type Percents = { highPercent?: number | undefined; lowPercent?: number | undefined };
/** What a search turns: percentages, persistence, hold-off and bands, for the site, its mains and its stations (by place in the file). */
export type Levers = {
  policy: Policy;
  /** No main waits longer; null: they wait as they stand. */
  holdOffS: number | null;
  mains: (Percents & { persistenceS?: number | undefined })[];
  stations: Percents[];
};
/** What the controllers of a site take. */
export type Ranges = { percent: [number, number]; persistenceS: [number, number] };

const LONGEST_S = 600;
const PERCENT: Ranges["percent"] = [1, 100];

/** The narrowest of what the controllers' profiles take; a controller without one takes any. */
export function rangesOf(site: SiteFile, profiles: readonly KeptProfile[], leastPersistenceS: number): Ranges {
  const mine = site.controllers.flatMap((c) => profiles.find((p) => p.id === c.profileId && p.flowLimits) ?? []);
  const range = ([from, to]: [number, number], froms: (number | undefined)[], tos: (number | undefined)[]) => {
    const least = Math.max(from, ...froms.map((x) => x ?? 0));
    return [least, Math.max(least, Math.min(to, ...tos.map((x) => x ?? Number.POSITIVE_INFINITY)))] as [number, number];
  };
  return {
    percent: range(
      PERCENT,
      mine.map((p) => p.limitFromPercent),
      mine.map((p) => p.limitToPercent),
    ),
    persistenceS: range(
      [leastPersistenceS, Math.max(LONGEST_S, leastPersistenceS)],
      mine.map((p) => p.persistenceFromS),
      mine.map((p) => p.persistenceToS),
    ),
  };
}

/** Nothing of its own on any main or station. */
export const plainLevers = ({ w: { site } }: Ground, policy: Policy): Levers => ({
  policy,
  holdOffS: null,
  mains: site.mainlines.map(() => ({})),
  stations: site.stations.map(() => ({})),
});

/** The high and low percentages that hold at every station: its own, else those of the lowest main above it that has some, else the site's. */
export function percentsOf({ w }: Ground, levers: Levers): { high: number[]; low: number[] } {
  const { policy, mains, stations } = levers;
  const ofMain = (key: "highPercent" | "lowPercent"): number[] =>
    mains.map((_, m) => {
      const own = (w.mainsAbove[m] ?? []).find((x) => mains[x]?.[key] !== undefined);
      return (own === undefined ? undefined : mains[own]?.[key]) ?? policy[key];
    });
  const [high, low] = [ofMain("highPercent"), ofMain("lowPercent")];
  return {
    high: stations.map((s, i) => s.highPercent ?? nth(high, nth(w.stationMainline, i))),
    low: stations.map((s, i) => s.lowPercent ?? nth(low, nth(w.stationMainline, i))),
  };
}

/** A site with these limits, as one change: what connections and mains had of their own of what was turned is gone. */
export function siteWith(site: SiteFile, levers: Levers): SiteFile {
  const { preset: _, bands: __, ...rest } = levers.policy;
  const policy: Policy = levers.policy.basis === "graded" ? { ...rest, bands: levers.policy.bands } : rest;
  return {
    ...site,
    policy,
    pocs: site.pocs.map((p) => withOverride(p, without(p.policy))),
    mainlines: site.mainlines.map((m, i) => ({
      ...withOverride(m, { ...without(m.policy), ...present(nth(levers.mains, i)) }),
      ...(levers.holdOffS === null ? {} : { holdOffS: Math.min(mainHoldOffS(m), levers.holdOffS) }),
    })),
    stations: site.stations.map((s, i) => {
      const { highPercent: _, lowPercent: __, ...plain } = s;
      return { ...plain, ...present(nth(levers.stations, i)) };
    }),
  };
}

const TURNED = ["highPercent", "lowPercent", "persistenceS"] as const;

function without(policy: PolicyOverride | undefined): PolicyOverride {
  return Object.fromEntries(
    Object.entries(policy ?? {}).filter(([key]) => !TURNED.some((k) => k === key)),
  ) as PolicyOverride;
}

function withOverride<T extends { policy?: PolicyOverride | undefined }>(level: T, policy: PolicyOverride): T {
  const { policy: _, ...rest } = level;
  return (Object.keys(policy).length > 0 ? { ...rest, policy } : rest) as T;
}

const present = <T extends object>(of: T): T =>
  Object.fromEntries(Object.entries(of).filter(([, v]) => v !== undefined)) as T;

/**
 * How levers act, without making a site of them.
 *
 * @param plain as they act with nothing on mains and stations
 */
export function actingOf(ground: Ground, levers: Levers, plain: Acting): Acting {
  if (levers.policy.basis === "graded") return { ...plain, ...judgedAs(ground, levers, plain) };
  const percents = percentsOf(ground, levers);
  const { high, low } = ratiosOf(ground, percents.high, percents.low);
  return { ...plain, high, low, ...judgedAs(ground, levers, plain) };
}

/** As they act with nothing of their own on mains and stations. */
export const plainActing = (ground: Ground, levers: Levers): Acting =>
  actingOn(ground, siteWith(ground.w.site, { ...plainLevers(ground, levers.policy), holdOffS: levers.holdOffS }));

/** With a persistence of its own where one of the mains that judge a stretch has one. */
function judgedAs(ground: Ground, levers: Levers, plain: Acting): Pick<Acting, "judging" | "swings"> {
  const { judging: usual, swings } = plain;
  if (levers.mains.every((m) => m.persistenceS === undefined)) return { judging: usual, swings };
  const judging = plain.judging.map((how, i) => {
    const own = nth(ground.stretches, i).mains.find((m) => levers.mains[m]?.persistenceS !== undefined);
    const persistenceS = own === undefined ? undefined : levers.mains[own]?.persistenceS;
    return persistenceS === undefined ? how : { ...how, persistenceS };
  });
  return {
    judging,
    swings: judging.map((how, i) => (how === usual[i] ? nth(swings, i) : ground.swing(i, how))),
  };
}

/** The limits of every stretch as shares of what is expected, from percentages by station (handbook#8-limits). */
export function ratiosOf(
  ground: Ground,
  high: ArrayLike<number>,
  low: ArrayLike<number>,
): { high: Float64Array; low: Float64Array } {
  const n = ground.stretches.length;
  const ratios = { high: new Float64Array(n), low: new Float64Array(n) };
  for (let i = 0; i < n; i++) {
    const at = ratioAt(ground, i, high, low);
    [ratios.high[i], ratios.low[i]] = [at.high, at.low];
  }
  return ratios;
}

export function ratioAt(
  { w, stretches }: Ground,
  i: number,
  high: ArrayLike<number>,
  low: ArrayLike<number>,
): { high: number; low: number } {
  const { stations, shares } = nth(stretches, i);
  let [over, under] = [0, 0];
  for (let k = 0; k < stations.length; k++) {
    const [s, share] = [stations[k] as number, shares[k] as number];
    over += share * (1 + (high[s] as number) / 100);
    if (w.site.stations[s]?.monitored !== false) under += share * (1 - (low[s] as number) / 100);
  }
  return { high: over, low: under };
}
