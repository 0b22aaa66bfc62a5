import type { FaultKind } from "../core/bench/faults/kinds.ts";
import type { Simulation } from "../core/bench/simulate.ts";
import type { FlowMoment, Plan } from "../core/dispatch/plan.ts";
import type { Aftermath } from "../core/bench/aftermath.ts";
import type { ComparedPolicy } from "../core/limits/compare.ts";
import type { Step } from "../core/drill/advice.ts";
import type { DrillAdvice } from "../core/drill/drill.ts";
import type { Finding } from "../core/check/finding.ts";
import type { Allowed } from "../core/optimize/better-night.ts";
import type { LearnOptions } from "../core/learn/events.ts";
import type { Rehearsal } from "../core/learn/rehearse.ts";
import type { Advice, Compared } from "../core/limits/advice.ts";
import type { Remedy } from "../core/limits/remedies.ts";
import type { SweepCell, SweptPolicy } from "../core/bench/sweep.ts";
import type { PressureStudy } from "../core/hydraulics/pressures.ts";
import type { Outlook } from "../core/season/outlook.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import type { NightSummary } from "../core/summary/night-summary.ts";

/** A night as it would run, the flow through every element at every change, and what the tell-line says of it. */
export type NightAnswer = { plan: Plan; moments: FlowMoment[]; summary: NightSummary };
export type PressureAnswer = { study: PressureStudy; findings: Finding[] };
export type BetterAnswer = { site: SiteFile; makespanS: number; tries: number; done: boolean };
/** The starting points side by side, what Presa would take, and what would make unseen breaks seen. */
export type JudgementAnswer = { rows: Compared[]; advice: Advice | null; remedies: Remedy[] };
/** What faults did to the rest of a night, and other policies on the same night. */
export type WhatElse = { aftermath: Aftermath[]; rows: ComparedPolicy[] };
export type ComputeRequest =
  | { id: number; kind: "whatElse"; site: SiteFile; date: string; faults: unknown[]; seed: number; exact: boolean }
  | { id: number; kind: "drillAdvice"; site: SiteFile; date: string; seed: number; steps: Step[] }
  | {
      id: number;
      kind: "sweep";
      site: SiteFile;
      date: string;
      kinds: FaultKind[];
      policies: SweptPolicy[];
      subjectIds: string[];
    }
  | { id: number; kind: "judgement"; site: SiteFile; date: string }
  | { id: number; kind: "rehearse"; site: SiteFile; options: Omit<LearnOptions, "faults" | "exact" | "seed"> }
  | { id: number; kind: "outlook"; site: SiteFile; first: string; days: number }
  | { id: number; kind: "better"; site: SiteFile; date: string; seconds: number; allowed: Allowed }
  | { id: number; kind: "pressures"; site: SiteFile; date: string | null }
  | { id: number; kind: "night"; site: SiteFile; date: string }
  | { id: number; kind: "simulate"; site: SiteFile; date: string; faults: unknown[]; seed: number; exact: boolean };
export type ComputeAnswer =
  | { id: number; kind: "whatElse"; result: WhatElse }
  | { id: number; kind: "drillAdvice"; result: DrillAdvice | null }
  | { id: number; kind: "swept"; cells: SweepCell[] }
  | { id: number; kind: "sweep"; result: null }
  | { id: number; kind: "judgement"; result: JudgementAnswer }
  | { id: number; kind: "rehearse"; result: Rehearsal | null }
  | { id: number; kind: "outlook"; result: Outlook }
  | { id: number; kind: "better"; result: BetterAnswer }
  | { id: number; kind: "pressures"; result: PressureAnswer }
  | ({ id: number; kind: "night" } & NightAnswer)
  | { id: number; kind: "simulate"; result: Simulation }
  | { id: number; kind: "progress"; share: number }
  | { id: number; kind: "failed"; message: string };
