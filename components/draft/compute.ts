import { proxy, type Remote, wrap } from "comlink";
import type { SweepCell } from "@/core/bench/sweep";
import type { SiteFile } from "@/core/site-file/schema";
import type { PartedNights } from "@/core/optimize/parted-night";
import type { WatchableNights } from "@/core/optimize/watchable";
import type { BetterAnswer, Computing } from "@/workers/compute.worker";

export type Job<T> = { promise: Promise<T>; cancel: () => void };
/** What a computation is given after the site, without the one that hears of its progress. */
type Asked<K extends keyof Computing> = Parameters<Computing[K]> extends [SiteFile, ...infer A] ? A : never;

/** A job given up, which is no fault of it. */
export class Cancelled extends Error {}

type Told<T> = (told: T) => void;
type Progress = Told<number>;

/**
 * One worker a job: cancelling ends the worker, so nothing keeps computing for a page that has moved on.
 *
 * @param work asks the worker; `hear` hands it something to tell, which is not heard any more once the job has ended
 */
function job<T>(work: (desk: Remote<Computing>, hear: <U>(told: Told<U>) => Told<U>) => Promise<T>): Job<T> {
  let going = true;
  const hear = <U>(told: Told<U>): Told<U> => proxy((value: U) => going && told(value));
  const worker = new Worker(new URL("../../workers/compute.worker.ts", import.meta.url), { type: "module" });
  let end: (why: Error) => void = () => {};
  const ended = new Promise<never>((_, no) => {
    end = no;
    worker.onerror = (event) => no(new Error(event.message || "The computation could not be loaded."));
  });
  return {
    promise: Promise.race([work(wrap<Computing>(worker), hear), ended]).finally(() => {
      going = false;
      worker.terminate();
    }),
    cancel: () => end(new Cancelled("cancelled")),
  };
}

export const computeNight = (site: SiteFile, date: string) => job((desk) => desk.night(site, date));

export const computeBench = (site: SiteFile, asked: Asked<"bench">[0], onProgress: Progress) =>
  job((desk, hear) => desk.bench(site, asked, hear(onProgress)));

export const computePressures = (site: SiteFile, date: string | null) => job((desk) => desk.pressures(site, date));

/** Searches a better night for so many seconds; each better one is told as it is found. Cancelled, what was told last stands. */
export const computeBetter = (
  site: SiteFile,
  date: string,
  seconds: number,
  allowed: Asked<"better">[2],
  onBetter: Told<BetterAnswer>,
) => job((desk, hear) => desk.better(site, date, seconds, allowed, hear(onBetter)));

/** Searches nights that can be watched better; what was told last stands when it is given up. */
export const computeWatchable = (
  site: SiteFile,
  date: string,
  asked: Asked<"watchable">[1],
  onBetter: Told<WatchableNights>,
) => job((desk, hear) => desk.watchable(site, date, asked, hear(onBetter)));

/** Searches an order that parts stations that always ran together; what was told last stands when it is given up. */
export const computeParted = (site: SiteFile, date: string, asked: Asked<"parted">[1], onBetter: Told<PartedNights>) =>
  job((desk, hear) => desk.parted(site, date, asked, hear(onBetter)));

/** The nights of so many dates, with what they leave of the budgets. */
export const computeOutlook = (site: SiteFile, asked: Asked<"outlook">[0], onProgress: Progress) =>
  job((desk, hear) => desk.outlook(site, asked, hear(onProgress)));

export const computeNightsFind = (site: SiteFile, date: string) => job((desk) => desk.nightsFind(site, date));

export const computeRehearsal = (site: SiteFile, options: Asked<"rehearsal">[0]) =>
  job((desk) => desk.rehearsal(site, options));

export const computeJudgement = (site: SiteFile, date: string, sets: Asked<"judgement">[1], onProgress: Progress) =>
  job((desk, hear) => desk.judgement(site, date, sets, hear(onProgress)));

export const computeLimits = (site: SiteFile, date: string, asked: Asked<"limits">[1], onProgress: Progress) =>
  job((desk, hear) => desk.limits(site, date, asked, hear(onProgress)));

export const computeWhatElse = (site: SiteFile, asked: Asked<"whatElse">[0], onProgress: Progress) =>
  job((desk, hear) => desk.whatElse(site, asked, hear(onProgress)));

export const computeDrillAdvice = (site: SiteFile, asked: Asked<"drillAdvice">[0], onProgress: Progress) =>
  job((desk, hear) => desk.drillAdvice(site, asked, hear(onProgress)));

const MOST_WORKERS = 4;

/** A fault sweep over the subjects given, shared out among workers; each one's cells come as they are done. */
export function computeSweep(
  site: SiteFile,
  asked: Asked<"sweep">[0] & { subjectIds: string[] },
  onCells: Told<SweepCell[]>,
): Job<void> {
  const workers = Math.max(1, Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2, asked.subjectIds.length));
  const jobs = Array.from({ length: workers }, (_, k) => {
    const mine = { ...asked, subjectIds: asked.subjectIds.filter((_, i) => i % workers === k) };
    return job((desk, hear) => desk.sweep(site, mine, hear(onCells)));
  });
  return {
    promise: Promise.all(jobs.map((j) => j.promise)).then(() => {}),
    cancel: () => {
      for (const j of jobs) j.cancel();
    },
  };
}
