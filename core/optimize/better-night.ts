import { playNight, planOf, type Plan } from "../dispatch/plan.ts";
import { randomFrom, type Random } from "../bench/random.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";

/** Settings a real controller accepts; put into the file they give the plan from the plain command. */
export type NightSettings = {
  programs: { id: string; priority: number; maxStationsAtOnce: number; starts: string[]; order: string[] }[];
};
export type BetterNight = Plan & { settings: NightSettings };
export type SearchOptions = {
  seed: number;
  /** Asked between tries: the caller's clock or cancel button. */
  shouldStop: () => boolean;
  onBetter?: (plan: BetterNight) => void;
};

type Score = [shortS: number, makespanS: number, starts: number];

/**
 * Searches order, priority and each program's number at once for the earliest end (handbook 6, a better night). Never other
 * days, minutes or start times; numbers of the controller and the site stay as they are. First the classic orders (longest,
 * largest, most litres first), then seeded moves that are kept when no worse.
 */
export function betterNight(site: SiteFile, date: string, options: SearchOptions): BetterNight {
  const random = randomFrom(options.seed);
  let best = site;
  let bestScore = score(site, date);
  const consider = (candidate: SiteFile): boolean => {
    const s = score(candidate, date);
    const order = compare(s, bestScore);
    if (order > 0) return false;
    best = candidate;
    bestScore = s;
    if (order < 0) options.onBetter?.(withSettings(best, date));
    return true;
  };
  for (const candidate of openings(site)) {
    if (options.shouldStop()) break;
    consider(candidate);
  }
  const floor = withSettings(best, date).lowerBoundS;
  for (let misses = 0; misses < 4000 && !options.shouldStop() && (bestScore[0] > 0 || bestScore[1] > floor + 1); )
    misses = consider(move(best, random)) ? misses + 0.25 : misses + 1;
  return withSettings(best, date);
}

function withSettings(site: SiteFile, date: string): BetterNight {
  const w = waterworks(site);
  return {
    ...planOf(w, playNight(w, date)),
    settings: {
      programs: site.programs.map((p) => ({
        id: p.id, priority: p.priority ?? 1, maxStationsAtOnce: p.maxStationsAtOnce ?? 1, starts: p.starts, order: p.runs.map((r) => r.stationId),
      })),
    },
  };
}

function score(site: SiteFile, date: string): Score {
  const night = playNight(waterworks(site), date);
  const shortS = night.starts.reduce((sum, s) => sum + s.entries.reduce((a, e) => a + e.shortS, 0), 0);
  const end = night.runs.reduce((latest, r) => Math.max(latest, r.end), 0);
  const first = night.starts[0]?.at ?? 0;
  return [shortS, night.runs.length > 0 ? end - first : 0, new Set(night.runs.map((r) => r.start)).size];
}

function compare(a: Score, b: Score): number {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return (a[i] as number) - (b[i] as number);
  return 0;
}

function openings(site: SiteFile): SiteFile[] {
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  const keys: ((r: Program["runs"][number]) => number)[] = [
    (r) => r.minutes, (r) => flow.get(r.stationId) ?? 0, (r) => r.minutes * (flow.get(r.stationId) ?? 0),
  ];
  const most = (p: Program): number => Math.max(p.maxStationsAtOnce ?? 1, Math.min(p.runs.length, 40));
  const wide: SiteFile = { ...site, programs: site.programs.map((p) => ({ ...p, maxStationsAtOnce: most(p) })) };
  return [wide, ...keys.flatMap((key) => [site, wide].map((base) => ({ ...base, programs: base.programs.map((p) => ({ ...p, runs: [...p.runs].sort((a, b) => key(b) - key(a)) })) })))];
}

function move(site: SiteFile, random: Random): SiteFile {
  const pick = Math.floor(random() * site.programs.length);
  const programs = site.programs.map((p, i) => (i === pick ? changed(p, random, site.programs.length) : p));
  return { ...site, programs };
}

function changed(program: Program, random: Random, programs: number): Program {
  const dice = random();
  const at = (n: number): number => Math.floor(random() * n);
  if (dice < 0.08) return { ...program, maxStationsAtOnce: Math.max(1, (program.maxStationsAtOnce ?? 1) + (random() < 0.5 ? -1 : 1)) };
  if (dice < 0.16 && programs > 1) return { ...program, priority: 1 + at(programs) };
  const runs = [...program.runs];
  if (runs.length < 2) return program;
  const from = at(runs.length);
  if (dice < 0.55) {
    const to = at(runs.length);
    [runs[from], runs[to]] = [runs[to] as (typeof runs)[number], runs[from] as (typeof runs)[number]];
  } else {
    const [taken] = runs.splice(from, 1);
    runs.splice(at(runs.length + 1), 0, taken as (typeof runs)[number]);
  }
  return { ...program, runs };
}
