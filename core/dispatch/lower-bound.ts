import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import type { CapacityCalendar } from "./capacity.ts";
import { type Passing, patternBoundS } from "./pattern-bound.ts";
import type { RunRecord } from "./run-record.ts";
import type { Entry, ProgramStart } from "./queue.ts";

/**
 * Seconds that no order can beat for the delivered work (handbook#6-programs): the largest of litres ÷ ceiling for every element (and for
 * every cut of elements together), times of stations that cannot pair, one station's cycles and soaks, and station
 * time ÷ each number at once.
 */
export function lowerBoundS(
  w: Waterworks,
  capacity: CapacityCalendar,
  runs: RunRecord[],
  passes = mustPass(w, capacity),
): number {
  if (runs.length === 0) return 0;
  return Math.max(
    litresBound(w, capacity, runs, passes),
    pairBound(w, capacity, runs, passes),
    stationBound(w, runs),
    atOnceBound(w, runs),
  );
}

/**
 * The same, knowing that nothing begins before its start has come and its program's hours are open: the largest, over those instants, of seconds from the night's first start to it plus the bound of all
 * work that begins no earlier; and that what runs at any moment is a set that fits. Never under {@link lowerBoundS}, which may be handed in as `whole`.
 *
 * @param first the night's first start; undefined where there is none
 * @param beginsAt the instant before which a run could not have begun in any order
 */
export function lateStartBoundS(
  w: Waterworks,
  capacity: CapacityCalendar,
  first: number | undefined,
  runs: RunRecord[],
  beginsAt: (run: RunRecord) => number,
  passes = mustPass(w, capacity),
  whole = lowerBoundS(w, capacity, runs, passes),
): number {
  if (first === undefined || runs.length === 0) return 0;
  const released = runs.map((run) => ({ run, at: beginsAt(run) }));
  return Math.max(
    whole,
    setsBound(w, capacity, runs, passes, whole),
    ...[...new Set(released.map((r) => r.at))]
      .filter((at) => at > first)
      .map(
        (at) =>
          at -
          first +
          lowerBoundS(
            w,
            capacity,
            released.flatMap((r) => (r.at >= at ? [r.run] : [])),
            passes,
          ),
      ),
  );
}

const length = (r: RunRecord): number => r.end - r.start;
const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);

/**
 * Least T for which T × every ceiling carries all litres: a maximum flow with capacities T·ceiling, found by bisection. By
 * max-flow min-cut this is the largest, over all cuts, of litres that must pass ÷ ceiling; on a tree, over all elements.
 */
function litresBound(w: Waterworks, capacity: CapacityCalendar, runs: RunRecord[], passes: Pass[]): number {
  let bound = 0;
  for (let g = 0; g < capacity.groupCount; g++) {
    const minutes = w.site.mainlines.map(() => 0);
    for (const r of runs) {
      if (capacity.groupOfController[nth(w.stationController, r.station)] !== g) continue;
      const m = nth(w.stationMainline, r.station);
      minutes[m] = nth(minutes, m) + ((r.flowLpm ?? 0) * length(r)) / 60;
    }
    if (sum(minutes) === 0) continue;
    const full = capacity.capacities(g, null);
    const scaled = (t: number) => ({
      source: full.source.map((c) => c * t),
      poc: full.poc.map((c) => c * t),
      mainline: full.mainline.map((c) => c * t),
    });
    const fits = (t: number): boolean => new FlowAssignment(w, scaled(t)).assign(minutes);
    // One element that all of it must pass is nearly always the narrowest cut, which two tries then tell.
    let low = Math.max(
      0,
      ...(g === 0 ? passes : []).map((p) => sum([...p.mains].map((m) => nth(minutes, m))) / p.ceiling),
    );
    let high = low > 0 ? low + 1e-7 : 1;
    while (!fits(high) && high < 1e6) {
      low = Math.max(low, high);
      high *= 2;
    }
    if (high >= 1e6) continue;
    for (let i = 0; i < 60 && high - low > 1e-7; i++) {
      const mid = (low + high) / 2;
      if (fits(mid)) high = mid;
      else low = mid;
    }
    bound = Math.max(bound, low * 60);
  }
  return bound;
}

type Pass = { ceiling: number; mains: Set<number> };

/** Elements with a ceiling, and the mainlines all of whose water must pass them: those without which nothing reaches it. */
export function mustPass(w: Waterworks, capacity: CapacityCalendar): Pass[] {
  const full = capacity.capacities(0, null);
  const reach = (change: (c: typeof full) => void): boolean[] => {
    const caps = { source: [...full.source], poc: [...full.poc], mainline: [...full.mainline] };
    change(caps);
    const assignment = new FlowAssignment(w, caps);
    return w.site.mainlines.map((_, m) => assignment.alone(m, 1e-3));
  };
  const all = reach(() => {});
  return (["source", "poc", "mainline"] as const).flatMap((kind) =>
    full[kind].flatMap((ceiling, i) => {
      if (!Number.isFinite(ceiling) || ceiling <= 0) return [];
      const without = reach((c) => {
        c[kind][i] = 0;
      });
      return [{ ceiling, mains: new Set(all.flatMap((ok, m) => (ok && !without[m] ? [m] : []))) }];
    }),
  );
}

/** Every station of the linked controllers: its flow, and for how long it runs. */
function passingOf(w: Waterworks, capacity: CapacityCalendar, runs: RunRecord[]): Map<number, Passing> {
  const found = new Map<number, Passing>();
  for (const r of runs) {
    if (capacity.groupOfController[nth(w.stationController, r.station)] !== 0) continue;
    const known = found.get(r.station) ?? { lpm: r.flowLpm ?? 0, s: 0 };
    known.s += length(r);
    found.set(r.station, known);
  }
  return found;
}

const behindOf = (w: Waterworks, passing: Map<number, Passing>, { mains }: Pass): Passing[] =>
  [...passing].filter(([s]) => mains.has(nth(w.stationMainline, s))).map(([, v]) => v);

/**
 * Under every ceiling, what sets that fit take at least. Sets can be found that fill every ceiling by half, so that where twice the litres ÷ ceiling is no more than what is known already there is
 * nothing to find.
 */
function setsBound(
  w: Waterworks,
  capacity: CapacityCalendar,
  runs: RunRecord[],
  passes: Pass[],
  whole: number,
): number {
  const passing = passingOf(w, capacity, runs);
  const narrowest = new Map<string, Pass>();
  for (const pass of passes) {
    const key = [...pass.mains].join();
    if (pass.ceiling < (narrowest.get(key)?.ceiling ?? Number.POSITIVE_INFINITY)) narrowest.set(key, pass);
  }
  let bound = 0;
  for (const pass of narrowest.values()) {
    const behind = behindOf(w, passing, pass);
    if ((2 * sum(behind.map((x) => x.lpm * x.s))) / pass.ceiling > whole)
      bound = Math.max(bound, patternBoundS(behind, pass.ceiling));
  }
  return bound;
}

/** Any two stations over half a ceiling cannot pair under it; nor can the largest of the others with the smallest of these. */
function pairBound(w: Waterworks, capacity: CapacityCalendar, runs: RunRecord[], passes: Pass[]): number {
  const passing = passingOf(w, capacity, runs);
  let bound = 0;
  for (const pass of passes) {
    const { ceiling } = pass;
    const behind = behindOf(w, passing, pass);
    const large = behind.filter((v) => v.lpm > ceiling / 2 + 1e-6);
    const smallestLarge = Math.min(...large.map((v) => v.lpm));
    const oneMore = behind.filter((v) => v.lpm <= ceiling / 2 + 1e-6 && v.lpm + smallestLarge > ceiling + 1e-6);
    bound = Math.max(bound, sum(large.map((v) => v.s)) + Math.max(0, ...oneMore.map((v) => v.s)));
  }
  return bound;
}

/**
 * One station: all its run time; and, program by program, its cycles with their soaks. Soaks of one program may hold cycles of another, and of a second run in
 * the same start, so neither adds to the other; a later start of a program waits for the earlier to close, so those do.
 */
function stationBound(w: Waterworks, runs: RunRecord[]): number {
  const chains = new Map<Entry, RunRecord[]>();
  const runS = new Map<number, number>();
  for (const r of runs) {
    chains.set(r.entry, [...(chains.get(r.entry) ?? []), r]);
    runS.set(r.station, (runS.get(r.station) ?? 0) + length(r));
  }
  const longest = new Map<number, Map<ProgramStart, number>>();
  for (const [entry, mine] of chains) {
    const key = entry.program * w.site.stations.length + entry.station;
    const ofStarts = longest.get(key) ?? new Map<ProgramStart, number>();
    ofStarts.set(entry.start, Math.max(ofStarts.get(entry.start) ?? 0, chainS(entry, mine)));
    longest.set(key, ofStarts);
  }
  return Math.max(0, ...runS.values(), ...[...longest.values()].map((starts) => sum([...starts.values()])));
}

/** Cycles of one run and the soaks between those that were completed, s. */
function chainS(entry: Entry, runs: RunRecord[]): number {
  const ordered = [...runs].sort((a, b) => a.start - b.start);
  const soaks = ordered.filter((r, i) => {
    const before = ordered[i - 1];
    return before !== undefined && r.cycle === before.cycle + 1 && before.ended === "complete";
  });
  return sum(ordered.map(length)) + soaks.length * entry.soakS;
}

function atOnceBound(w: Waterworks, runs: RunRecord[]): number {
  const { site } = w;
  const total = (mine: RunRecord[]): number => sum(mine.map(length));
  const bounds = [
    total(runs) / (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY),
    ...site.programs.map((p, i) => total(runs.filter((r) => r.program === i)) / (p.maxStationsAtOnce ?? 1)),
    ...site.controllers.map(
      (c, i) =>
        total(runs.filter((r) => w.stationController[r.station] === i)) /
        (c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY),
    ),
  ];
  return Math.max(...bounds);
}
