import type { FaultKind } from "@/core/bench/faults/kinds";
import type { SweepCell, SweptPolicy } from "@/core/bench/sweep";
import type { Simulation } from "@/core/bench/simulate";
import type { Step } from "@/core/drill/advice";
import type { DrillAdvice } from "@/core/drill/drill";
import type { Allowed } from "@/core/optimize/better-night";
import type { LearnOptions } from "@/core/learn/events";
import type { Rehearsal } from "@/core/learn/rehearse";
import type { Outlook } from "@/core/season/outlook";
import type { SiteFile } from "@/core/site-file/schema";
import type {
  BetterAnswer,
  ComputeAnswer,
  JudgementAnswer,
  NightAnswer,
  PressureAnswer,
  WhatElse,
} from "@/workers/messages";

type Job<T> = { promise: Promise<T>; cancel: () => void };
let next = 1;

/** One worker a job: cancelling ends the worker, so nothing keeps computing for a page that has moved on. */
function run<T>(
  request: Record<string, unknown>,
  onProgress?: (share: number) => void,
  onResult?: (result: BetterAnswer) => void,
  onSwept?: (cells: SweepCell[]) => void,
): Job<T> {
  const worker = new Worker(new URL("../../workers/compute.worker.ts", import.meta.url), { type: "module" });
  const id = next++;
  let reject: (reason: Error) => void = () => {};
  const promise = new Promise<T>((resolve, no) => {
    reject = no;
    worker.onmessage = ({ data }: MessageEvent<ComputeAnswer>) => {
      if (data.kind === "progress") {
        onProgress?.(data.share);
        return;
      }
      if (data.kind === "swept") {
        onSwept?.(data.cells);
        return;
      }
      if (data.kind === "better" && !data.result.done) {
        onResult?.(data.result);
        return;
      }
      worker.terminate();
      if (data.kind === "failed") no(new Error(data.message));
      else if (
        data.kind === "simulate" ||
        data.kind === "pressures" ||
        data.kind === "better" ||
        data.kind === "outlook" ||
        data.kind === "rehearse" ||
        data.kind === "drillAdvice" ||
        data.kind === "whatElse" ||
        data.kind === "judgement" ||
        data.kind === "sweep"
      )
        resolve(data.result as T);
      else resolve(data as T);
    };
    worker.onerror = (event) => no(new Error(event.message || "The computation could not be loaded."));
  });
  worker.postMessage({ id, ...request });
  return {
    promise,
    cancel: () => {
      worker.terminate();
      reject(new Error("cancelled"));
    },
  };
}

export function computeNight(site: SiteFile, date: string): Job<NightAnswer> {
  return run<NightAnswer>({ kind: "night", site, date });
}

export function computeBench(
  site: SiteFile,
  request: { date: string; faults: unknown[]; seed: number; exact: boolean },
  onProgress: (share: number) => void,
): Job<Simulation> {
  return run<Simulation>({ kind: "simulate", site, ...request }, onProgress);
}

/** Solves the network for each station alone, everything up to the ceiling, and every set of the night. */
export function computePressures(site: SiteFile, date: string | null): Job<PressureAnswer> {
  return run<PressureAnswer>({ kind: "pressures", site, date });
}

/** Searches a better night for so many seconds; each better one is told as it is found. Cancelled, what was told last stands. */
export function computeBetter(
  site: SiteFile,
  date: string,
  seconds: number,
  allowed: Allowed,
  onBetter: (best: BetterAnswer) => void,
): Job<BetterAnswer> {
  return run<BetterAnswer>({ kind: "better", site, date, seconds, allowed }, undefined, onBetter);
}

/** The nights of so many dates, with what they leave of the budgets. */
export function computeOutlook(
  site: SiteFile,
  first: string,
  days: number,
  onProgress: (share: number) => void,
): Job<Outlook> {
  return run<Outlook>({ kind: "outlook", site, first, days }, onProgress);
}

/** Learning run through on an exact bench: how long, how much, what is in the way. */
export function computeRehearsal(
  site: SiteFile,
  options: Omit<LearnOptions, "faults" | "exact" | "seed">,
): Job<Rehearsal | null> {
  return run<Rehearsal | null>({ kind: "rehearse", site, options });
}

/** The starting points judged on the night of a date. */
export function computeJudgement(
  site: SiteFile,
  date: string,
  onProgress: (share: number) => void,
): Job<JudgementAnswer> {
  return run<JudgementAnswer>({ kind: "judgement", site, date }, onProgress);
}

/** The same night without its faults, and with them under each starting point. */
export function computeWhatElse(
  site: SiteFile,
  asked: { date: string; faults: unknown[]; seed: number; exact: boolean },
  onProgress: (share: number) => void,
): Job<WhatElse> {
  return run<WhatElse>({ kind: "whatElse", site, ...asked }, onProgress);
}

/** How a drill was gone about, against every cause that was possible. */
export function computeDrillAdvice(
  site: SiteFile,
  asked: { date: string; seed: number; steps: Step[] },
  onProgress: (share: number) => void,
): Job<DrillAdvice | null> {
  return run<DrillAdvice | null>({ kind: "drillAdvice", site, ...asked }, onProgress);
}

const MOST_WORKERS = 4;

/** A fault sweep over the subjects given, shared out among workers; each one's cells come as they are done. */
export function computeSweep(
  site: SiteFile,
  asked: { date: string; kinds: FaultKind[]; policies: SweptPolicy[]; subjectIds: string[] },
  onCells: (cells: SweepCell[]) => void,
): Job<void> {
  const workers = Math.max(1, Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2, asked.subjectIds.length));
  const jobs = Array.from({ length: workers }, (_, k) =>
    run<null>(
      { kind: "sweep", site, ...asked, subjectIds: asked.subjectIds.filter((_, i) => i % workers === k) },
      undefined,
      undefined,
      onCells,
    ),
  );
  return {
    promise: Promise.all(jobs.map((j) => j.promise)).then(() => {}),
    cancel: () => {
      for (const j of jobs) j.cancel();
    },
  };
}
