import { openIntervals } from "@/core/calendar/windows";
import { addDays } from "@/core/dates/wall-time";
import { ceilings } from "@/core/ceilings/ceilings";
import { layChannel, type Ribbon } from "@/core/braid/channel-layout";
import type { FlowMoment } from "@/core/dispatch/plan";
import type { SiteFile } from "@/core/site-file/schema";
import { RULE_WORDS } from "@/components/words/rule-words";

/** A run as the braid needs it; a plan's and a bench night's look alike. */
export type BraidRun = {
  stationId: string;
  programId: string;
  start: string;
  end: string;
  cycle: number;
  flowLpm: number | null;
  waited?: { code: string; elementId?: string; seconds: number } | null;
  ended?: string;
  test?: boolean;
};
export type RunKey = string;
export type MainChannel = {
  id: string;
  name: string;
  ceilingLpm: number;
  limited: boolean;
  bank: string;
  /** How far the widest moment passes the ceiling, L/min. */
  overLpm: number;
  ribbons: (Ribbon & { run: BraidRun; own: boolean })[];
  bare: { run: BraidRun; from: number; to: number }[];
};
export type PocChannel = {
  id: string;
  name: string;
  ceilingLpm: number;
  limited: boolean;
  bank: string;
  overLpm: number;
  steps: { at: number; lpm: number }[];
  pumpMinimumLpm: number | null;
};
export type Braid = {
  from: number;
  to: number;
  mains: MainChannel[];
  pocs: PocChannel[];
  closed: { from: number; to: number }[];
};

export const runKey = (r: BraidRun): RunKey => `${r.stationId}|${r.programId}|${r.start}`;
export const seconds = (iso: string): number => Date.parse(iso) / 1000;

/** Everything the picture shows, in seconds and L/min. Mains through which another is fed carry its runs too, drawn pale. */
export function braidOf(site: SiteFile, runs: BraidRun[], moments: FlowMoment[], date: string): Braid | null {
  if (runs.length === 0) return null;
  const from = Math.min(...runs.map((r) => seconds(r.start)));
  const to = Math.max(...runs.map((r) => seconds(r.end)));
  const own = new Map(ceilings(site).map((c) => [c.id, c]));
  const mainOf = new Map(site.stations.map((s) => [s.id, s.mainlineId]));
  const carriedBy = new Map(site.mainlines.map((m) => [m.id, below(site, m.id)]));
  const bankWords = (id: string): string => {
    const c = own.get(id);
    if (c?.boundBy?.rule === "entered") return "a ceiling entered by hand";
    return c?.boundBy
      ? `bound by ${RULE_WORDS[c.boundBy.rule]}${c.boundBy.deviceId ? ` (${deviceName(site, c.boundBy.deviceId)})` : ""}`
      : "nothing limits it";
  };
  const mains = site.mainlines.flatMap((m) => {
    const mine = runs.filter((r) => carriedBy.get(m.id)?.has(mainOf.get(r.stationId) ?? ""));
    if (mine.length === 0) return [];
    const byKey = new Map(mine.map((r) => [runKey(r), r]));
    const limit = own.get(m.id)?.ceilingLpm ?? null;
    const peak = peakOf(mine);
    const ceilingLpm = limit ?? peak * 1.05;
    const ribbons = layChannel(
      mine
        .filter((r) => (r.flowLpm ?? 0) > 0)
        .map((r) => ({ key: runKey(r), from: seconds(r.start), to: seconds(r.end), width: r.flowLpm as number })),
      ceilingLpm,
    ).map((ribbon) => ({
      ...ribbon,
      run: byKey.get(ribbon.key) as BraidRun,
      own: mainOf.get(byKey.get(ribbon.key)?.stationId ?? "") === m.id,
    }));
    return [
      {
        id: m.id,
        name: m.name,
        ceilingLpm,
        limited: limit !== null,
        bank: bankWords(m.id),
        overLpm: past(limit, Math.max(0, ...ribbons.flatMap((r) => r.steps.map((s) => s.x + r.width)))),
        ribbons,
        bare: mine
          .filter((r) => !((r.flowLpm ?? 0) > 0))
          .map((run) => ({ run, from: seconds(run.start), to: seconds(run.end) })),
      },
    ];
  });
  const pocs = site.pocs.flatMap((p, i) => {
    const steps = moments.map((moment) => ({ at: moment.at, lpm: moment.poc[i] ?? 0 }));
    const peak = Math.max(0, ...steps.map((s) => s.lpm));
    if (peak === 0) return [];
    const limit = own.get(p.id)?.ceilingLpm ?? null;
    const pump = p.devices.find((d) => d.kind === "pump");
    return [
      {
        id: p.id,
        name: p.name,
        ceilingLpm: limit ?? peak * 1.05,
        limited: limit !== null,
        bank: bankWords(p.id),
        overLpm: past(limit, peak),
        steps,
        pumpMinimumLpm: pump?.kind === "pump" ? (pump.minFlowLpm ?? null) : null,
      },
    ];
  });
  return { from, to, mains, pocs, closed: closedHours(site, runs, date, from, to) };
}

const past = (limit: number | null, most: number): number => (limit !== null && most > limit + 1e-6 ? most - limit : 0);

/** The main itself and every main whose only way is through it. */
function below(site: SiteFile, id: string): Set<string> {
  const found = new Set([id]);
  for (let grew = true; grew; ) {
    grew = false;
    for (const m of site.mainlines)
      if (!found.has(m.id) && m.feedIds.length > 0 && m.feedIds.every((f) => found.has(f))) {
        found.add(m.id);
        grew = true;
      }
  }
  return found;
}

function peakOf(runs: BraidRun[]): number {
  const moments = runs.map((r) => seconds(r.start));
  return Math.max(
    1,
    ...moments.map((t) =>
      runs.reduce((sum, r) => sum + (seconds(r.start) <= t && t < seconds(r.end) ? (r.flowLpm ?? 0) : 0), 0),
    ),
  );
}

/** When no program that runs tonight may water. */
function closedHours(
  site: SiteFile,
  runs: BraidRun[],
  date: string,
  from: number,
  to: number,
): { from: number; to: number }[] {
  const programs = site.programs.filter((p) => runs.some((r) => r.programId === p.id));
  const open = programs.map((p) => openIntervals(site.site.timeZone, p, addDays(date, -1), 4));
  const closed: { from: number; to: number }[] = [];
  const step = 300;
  for (let t = Math.floor(from / step) * step - 3600; t < to + 3600; t += step) {
    if (open.some((intervals) => intervals.some((i) => i.from <= t && t < i.to))) continue;
    const last = closed[closed.length - 1];
    if (last && last.to === t) last.to = t + step;
    else closed.push({ from: t, to: t + step });
  }
  return closed;
}

function deviceName(site: SiteFile, id: string): string {
  const d = [
    ...site.pocs.flatMap((p) => p.devices),
    ...site.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ].find((x) => x.id === id);
  return d ? (d.name ?? (d.kind === "pipe" ? `${d.nominal} ${d.material}` : d.kind)) : id;
}

const BLOCK_WORDS: Record<string, string> = {
  soak: "soaking",
  window: "its window was closed",
  input: "an input paused it",
  delay: "the program's delay",
  stationRunning: "it was running in another program",
  programAtOnce: "the program's number at once",
  controllerAtOnce: "the controller's number at once",
  siteAtOnce: "the site's number at once",
  ceiling: "ceiling",
  runsAlone: "it must run alone, having no flow figure",
  pumpMinimum: "the pump's minimum",
  strictOrder: "strict order",
  search: "a search",
  earlierStart: "the earlier start",
  lockedOut: "a lockout",
};

/** The instant before which no order can end the night; null where nothing runs. */
export function noEarlierThan(plan: {
  finish: string | null;
  makespanS: number;
  lateStartBoundS: number;
}): number | null {
  return plan.finish === null ? null : seconds(plan.finish) - plan.makespanS + plan.lateStartBoundS;
}

/** Why a run started when it did: "waited 6 min: ceiling of East main". */
export function whyThen(site: SiteFile, run: BraidRun): string {
  if (run.test) return "run alone by find and isolate";
  const w = run.waited;
  if (!w || w.seconds <= 0) return "opened as soon as its turn came";
  const element = [...site.sources, ...site.pocs, ...site.mainlines, ...(site.weatherInputs ?? [])].find(
    (e) => e.id === w.elementId,
  );
  const minutes = w.seconds >= 90 ? `${Math.round(w.seconds / 60)} min` : `${w.seconds} s`;
  const wheres: Record<string, string> = { ceiling: ` of ${element?.name}`, input: ` (${element?.name})` };
  return `waited ${minutes}: ${BLOCK_WORDS[w.code] ?? w.code}${(element && wheres[w.code]) ?? ""}`;
}
