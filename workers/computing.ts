import { type Aftermath, aftermath } from "../core/bench/aftermath.ts";
import { type Simulation, simulate } from "../core/bench/simulate.ts";
import { type SweepCell, sweepFaults } from "../core/bench/sweep.ts";
import type { Finding } from "../core/check/finding.ts";
import type { TaughtSet } from "../core/judge/taught-sets.ts";
import type { Step } from "../core/drill/advice.ts";
import { adviseDrill, beginDrill, type DrillAdvice } from "../core/drill/drill.ts";
import type { PressureStudy } from "../core/hydraulics/pressures.ts";
import { rehearseLearning } from "../core/learn/rehearse.ts";
import { type Advice, type Compared, comparedSchools } from "../core/limits/advice.ts";
import { type BudgetOptions, type LimitsByBudget, limitsByBudget } from "../core/limits/budget/budget.ts";
import { type ComparedPolicy, comparePolicies } from "../core/limits/compare.ts";
import { type Remedy, remediesFor } from "../core/limits/remedies.ts";
import { policyFrom, SCHOOLS } from "../core/limits/schools.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { betterSite, searchBounds, type SearchBounds } from "../core/optimize/better-night.ts";
import { type PartedNights, partedNights } from "../core/optimize/parted-night.ts";
import type { Allowed } from "../core/optimize/tunings.ts";
import { type WatchableNights, type WatchableOptions, watchableNights } from "../core/optimize/watchable.ts";
import { type Outlook, outlook, type ReadWater } from "../core/season/outlook.ts";
import { plan } from "../core/dispatch/plan.ts";
import { type WouldFind, wouldFind } from "../core/reckon/would-find.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { nightAnswer } from "../core/summary/night-answer.ts";

/** Of each station that runs: from which size on a break is named for certain, L/min; null: never told from another's. */
export type NightsFind = (WouldFind & { thirdLpm: number | null })[];
export type PressureAnswer = { study: PressureStudy; findings: Finding[] };
export type BetterAnswer = SearchBounds & { site: SiteFile; makespanS: number; tries: number };
/** The starting points side by side, what Presa would take, and what would make unseen breaks seen. */
export type JudgementAnswer = { rows: Compared[]; advice: Advice | null; remedies: Remedy[] };
/** What faults did to the rest of a night, and other policies on the same night. */
export type WhatElse = { aftermath: Aftermath[]; rows: ComparedPolicy[] };
/** `seconds`: after so many the best found so far stands. */
type LimitsAsked = Pick<BudgetOptions, "trips" | "profiles" | "assumed" | "sets"> & { seconds: number };
type WatchableAsked = Pick<WatchableOptions, "every" | "budget"> & { seconds: number };
type BenchAsked = { date: string; faults: unknown[]; seed: number; exact: boolean };
/** Told over the wire; what comes back is that it was heard. */
type Told<T> = (told: T) => unknown;

/** Ten times a second is as often as anyone can read. */
const TOLD_EVERY_MS = 100;
/** A frontier of nights is more to send and to draw. */
const FRONTIER_TOLD_EVERY_MS = 700;
/** Of a comparison; what follows it is short. */
const MOST_OF_IT = 0.9;
const REMEDIES_SHOWN = 10;

/** Tells how far it is and goes on: giving up ends the worker. */
const going =
  (onProgress: Told<number>, part = 1) =>
  (share: number): true => {
    onProgress(part * share);
    return true;
  };

/** Tells no more often than so many ms: what is told last may be passed over, and comes as the answer. */
function seldom<A extends unknown[]>(everyMs: number, tell: (...told: A) => unknown): (...told: A) => void {
  let last = 0;
  return (...told) => {
    if (performance.now() - last < everyMs) return;
    last = performance.now();
    tell(...told);
  };
}

/** Stations whose break would cost most first. */
function largestFirst(site: SiteFile, ids: string[]): string[] {
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  return [...ids].sort((a, b) => (flow.get(b) ?? 0) - (flow.get(a) ?? 0));
}

type Outcome<T> = ({ ok: true } & T) | { ok: false; problem: { message: string } } | { ok: false; cancelled: true };
/** What came of it, or its refusal as an error. */
function good<T>(outcome: Outcome<T>): T {
  if (outcome.ok) return outcome;
  throw new Error("problem" in outcome ? outcome.problem.message : "Cancelled.");
}

/** Heavy work, by name: what a worker does for the page. */
export const computing = {
  night: nightAnswer,

  bench: (site: SiteFile, asked: BenchAsked, onProgress: Told<number>): Simulation =>
    good(simulate(site, { ...asked, onProgress: going(onProgress) })).result,

  /** The network solved for each station alone, everything up to the ceiling, and every set of the night. */
  async pressures(site: SiteFile, date: string | null): Promise<PressureAnswer> {
    const { pressureStudy } = await import("../core/hydraulics/pressures.ts");
    const { pressureFindings } = await import("../core/check/pressure.ts");
    const study = await pressureStudy(site, date);
    return { study, findings: await pressureFindings(site, study) };
  },

  better(site: SiteFile, date: string, seconds: number, allowed: Allowed, onBetter: Told<BetterAnswer>): BetterAnswer {
    const until = performance.now() + 1000 * seconds;
    let [tries, makespanS] = [0, 0];
    const bounds = searchBounds(site, date, allowed);
    const tell = seldom(TOLD_EVERY_MS, (found: SiteFile) => onBetter({ site: found, makespanS, tries, ...bounds }));
    const best = betterSite(site, date, {
      seed: 1,
      allowed,
      shouldStop: () => performance.now() >= until,
      onBetter: (found, score, n) => {
        [tries, makespanS] = [n, score[1]];
        tell(found);
      },
    });
    return { site: best, makespanS, tries, ...bounds };
  },

  /** Nights that can be watched better; the frontier is told as it grows. */
  watchable(
    site: SiteFile,
    date: string,
    { seconds, ...asked }: WatchableAsked,
    onBetter: Told<WatchableNights>,
  ): WatchableNights {
    const [began, most] = [performance.now(), 1000 * seconds];
    return watchableNights(site, date, {
      ...asked,
      seed: 1,
      shouldStop: (share) => performance.now() >= began + share * most,
      onBetter: seldom(FRONTIER_TOLD_EVERY_MS, onBetter),
    });
  },

  /** An order of a night that parts stations that always ran together; the best so far is told as it is found. */
  parted(
    site: SiteFile,
    date: string,
    { seconds, groups }: { seconds: number; groups: string[][] },
    onBetter: Told<PartedNights>,
  ): PartedNights {
    const until = performance.now() + 1000 * seconds;
    return partedNights(site, date, {
      groups,
      seed: 1,
      shouldStop: () => performance.now() >= until,
      onBetter: seldom(FRONTIER_TOLD_EVERY_MS, onBetter),
    });
  },

  outlook: (
    site: SiteFile,
    { first, days, read }: { first: string; days: number; read: ReadWater | null },
    onProgress: Told<number>,
  ): Outlook => outlook(site, first, days, (done) => onProgress(done / days), read),

  /** From which size on the readings of a night name a break, on the first morning and on the third. */
  nightsFind(site: SiteFile, date: string): NightsFind {
    const w = waterworks(site);
    const { runs } = plan(site, date);
    const third = new Map(wouldFind(w, runs, 3).map((f) => [f.stationId, f.fromLpm]));
    return wouldFind(w, runs).map((f) => ({ ...f, thirdLpm: third.get(f.stationId) ?? null }));
  },

  /** Learning run through on an exact bench: how long, how much, what is in the way. */
  rehearsal: rehearseLearning,

  /** The starting points judged on the night of a date. */
  judgement(site: SiteFile, date: string, sets: TaughtSet[], onProgress: Told<number>): JudgementAnswer {
    const found = comparedSchools(site, date, { sets, onProgress: going(onProgress, MOST_OF_IT) });
    if (!found) throw new Error("Cancelled.");
    const unseen = found.rows[0]?.figures.lateralNever ?? [];
    const shown = largestFirst(site, unseen).slice(0, REMEDIES_SHOWN);
    return { rows: found.rows, advice: found.advice, remedies: remediesFor(found.night, site.policy, shown) };
  },

  /** The limits that lose the least water at so many trips for nothing, with the curve; the best of what there was time for. */
  limits(site: SiteFile, date: string, { seconds, ...asked }: LimitsAsked, onProgress: Told<number>): LimitsByBudget {
    const until = performance.now() + 1000 * seconds;
    const found = limitsByBudget(site, date, {
      ...asked,
      shouldStop: () => performance.now() >= until,
      onProgress: going(onProgress),
    });
    if (!found) throw new Error("Cancelled.");
    return found;
  },

  /** The same night without its faults, and with them under each starting point. */
  whatElse(site: SiteFile, asked: BenchAsked, onProgress: Told<number>): WhatElse {
    const policies = [
      { name: "as it stands", policy: site.policy },
      ...SCHOOLS.map((s) => ({ name: s.id, policy: policyFrom(site, s) })),
    ];
    const { rows } = good(comparePolicies(site, { ...asked, policies, onProgress: going(onProgress, MOST_OF_IT) }));
    const night = good(simulate(site, asked)).result;
    return { aftermath: aftermath(night, good(simulate(site, { ...asked, faults: [] })).result), rows };
  },

  /** How a drill was gone about, against every cause that was possible. */
  drillAdvice(
    site: SiteFile,
    { date, seed, steps }: { date: string; seed: number; steps: Step[] },
    onProgress: Told<number>,
  ): DrillAdvice | null {
    const drill = beginDrill(site, date, seed);
    return drill && adviseDrill(drill, steps, going(onProgress));
  },

  /** A fault sweep; the cells of each subject are told as they are done. */
  async sweep(
    site: SiteFile,
    asked: Omit<Parameters<typeof sweepFaults>[1], "onSubject">,
    onCells: Told<SweepCell[]>,
  ): Promise<void> {
    const heard: unknown[] = [];
    sweepFaults(site, {
      ...asked,
      onSubject: (cells) => {
        heard.push(onCells(cells));
        return true;
      },
    });
    // It is over when the last cells have arrived.
    await Promise.all(heard);
  },
};
