import { nth } from "../checked.ts";
import { check } from "../check/check.ts";
import { type Plan, planOf, playNight } from "../dispatch/plan.ts";
import { watchedShare } from "../limits/watched.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";

/** What the tell-line and Rounds say of a site: computed in one go, on the server and in the browser alike. */
export type NightSummary = {
  date: string;
  finish: string | null;
  makespanS: number;
  ratio: number | null;
  shortfallMin: number;
  /** Share of run time in which limits are really watched, 0 to 1; null without runs. */
  watched: number | null;
  findings: { errors: number; warnings: number; notes: number };
  binding: {
    elementId: string;
    name: string;
    ceilingLpm: number;
    rule: string;
    deviceId: string | null;
    peakLpm: number;
  } | null;
  /** The night in small: what flows at SKETCH_STEPS instants from its first start to its end, L/min; empty where nothing runs. */
  sketch: number[];
  litres: number;
};

/** Steps of the night in small. */
const SKETCH_STEPS = 110;

function sketchOf(runs: { from: number; seconds: number; lpm: number }[], makespanS: number): number[] {
  if (runs.length === 0) return [];
  const step = Math.max(1, makespanS / SKETCH_STEPS);
  const flows = new Array<number>(SKETCH_STEPS).fill(0);
  for (const { from, seconds, lpm } of runs)
    for (let i = Math.ceil(from / step); i < SKETCH_STEPS && i * step < from + seconds; i++)
      flows[i] = (flows[i] ?? 0) + lpm;
  return flows.map((lpm) => Math.round(lpm * 10) / 10);
}

/** The element that its peak fills most is the one that binds the night. */
export function nightSummary(
  site: SiteFile,
  date: string,
  ready?: Plan,
  w = waterworks(site),
  findings = check(site, w),
): NightSummary {
  const night = ready ?? planOf(w, playNight(w, date));
  const count = (severity: string): number => findings.filter((f) => f.severity === severity).length;
  const names = new Map([...site.sources, ...site.pocs, ...site.mainlines].map((e) => [e.id, e.name]));
  const tightest = night.peaks
    .filter((p) => p.ceilingLpm !== null && p.ceilingLpm > 0)
    .sort((a, b) => b.lpm / (b.ceilingLpm as number) - a.lpm / (a.ceilingLpm as number))[0];
  const bound = tightest ? w.ceilingById.get(tightest.id)?.boundBy : null;
  const starts = night.runs.map((r) => Date.parse(r.start) / 1000);
  const first = Math.min(...starts);
  const length = (r: Plan["runs"][number]): number => (Date.parse(r.end) - Date.parse(r.start)) / 1000;
  return {
    date,
    finish: night.finish,
    makespanS: night.makespanS,
    ratio: night.ratio,
    shortfallMin: night.shortfalls.reduce((sum, s) => sum + s.minutes, 0),
    watched: watchedShare(site, night.runs, w),
    findings: { errors: count("error"), warnings: count("warning"), notes: count("note") },
    binding:
      tightest && bound
        ? {
            elementId: tightest.id,
            name: names.get(tightest.id) ?? tightest.id,
            ceilingLpm: tightest.ceilingLpm as number,
            rule: bound.rule,
            deviceId: bound.deviceId ?? null,
            peakLpm: tightest.lpm,
          }
        : null,
    sketch: sketchOf(
      night.runs.map((r, i) => ({ from: nth(starts, i) - first, seconds: length(r), lpm: r.flowLpm ?? 0 })),
      night.makespanS,
    ),
    litres: night.runs.reduce((sum, r) => sum + ((r.flowLpm ?? 0) * length(r)) / 60, 0),
  };
}
