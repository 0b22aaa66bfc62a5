import { nth } from "../checked.ts";
import { randomFrom } from "../bench/random.ts";
import { planOf, playNight } from "../dispatch/plan.ts";
import { type Stretch, stretchesOf } from "../limits/stretches.ts";
import { waterworks } from "../network/waterworks.ts";
import { withLocks } from "../site-file/locks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { bestStep, rate, type Rated, type Step, stepSeconds, stillPossible } from "./advice.ts";
import { type Cause, DrillBench, type Result, sameResult, type Standing } from "./drill-bench.ts";

/** A reading of the night before anyone touched anything: with these running, the sensors read so; expected is what they would have read in sum with nothing wrong. */
export type Opening = { at: number; step: Step; result: Result; expectedLpm: number };
export type Drill = {
  bench: DrillBench;
  hidden: Cause;
  /** Readings of the night: the one that stands out; where none does, several. */
  night: Opening[];
  seed: number;
};
/** What a step said and cost. */
export type Told = { result: Result; seconds: number; lostL: number; usedL: number };
export type DrillOutcome = {
  right: boolean;
  hidden: Cause;
  named: Cause;
  /** Nothing on this site tells the one named from the one hidden. */
  alike: boolean;
  seconds: number;
  lostL: number;
  usedL: number;
};
export type DrillAdvice = {
  /** How many causes were possible before the first step and after each. */
  possible: number[];
  /** Where another check would have told most more than the one that was made. */
  better: { index: number; made: Rated; best: Rated } | null;
  /** A short way to it: steps, what each leaves, and what it costs. */
  short: { steps: { step: Step; result: Result; left: number }[]; seconds: number; lostL: number };
};

const ALL_SHUT: Standing = { open: [], valves: [], pumps: [] };
const MOST_SHORT = 30;
/** Sets that are told of a night in which nothing stood out. */
const MOST_TOLD = 6;
const MOST_DRAWS = 40;

/** The drill of a seed on a site: one thing is wrong somewhere, and the night said something of it. Null where the site has nothing to try it on. */
export function beginDrill(asked: SiteFile, date: string, seed: number): Drill | null {
  // What is locked out would run, were nothing wrong with it: a drill is not about that.
  const site = withLocks(
    asked,
    [...asked.stations, ...asked.mainlines, ...asked.pocs].map((x) => x.id),
    false,
  );
  const w = waterworks(site);
  const night = planOf(w, playNight(w, date));
  const stretches = stretchesOf(w, night.runs).filter((s) => s.to - s.from >= 60);
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => nth(list, Math.floor(random() * list.length));
  const systems = [...new Set(stretches.map((s) => s.system))].filter((system) =>
    new DrillBench(site, date, stretches[0]?.from ?? 0, system).devices().some((d) => d.kind === "flowSensor"),
  );
  if (systems.length === 0) return null;
  const system = pick(systems);
  const mine = stretches.filter((s) => s.system === system);
  const bench = new DrillBench(site, date, nth(mine, 0).from, system);
  const ran = new Set(mine.flatMap((s) => s.stations.map((i) => nth(site.stations, i).id)));
  const stations = new Set(bench.stations.map((s) => s.id));
  const causes = bench.causes().filter((c) => !stations.has(c.subjectId) || ran.has(c.subjectId));
  const sets = [...new Map(mine.map((s) => [s.stations.join(), s])).values()].sort(
    (a, b) => b.stations.length - a.stations.length,
  );
  for (let draw = 0; draw < MOST_DRAWS; draw++) {
    const kind = pick([...new Set(causes.map((c) => c.kind))]);
    const hidden = pick(causes.filter((c) => c.kind === kind));
    const shows = sets.map((s) => openingOf(bench, s, hidden)).find((o) => o.shows);
    // What does not show in any set of the night can only be looked for where few things may be it.
    if (!shows && stations.has(hidden.subjectId)) continue;
    const first = shows ?? openingOf(bench, nth(sets, 0), hidden);
    // A night in which nothing stood out is told at more length: that it read right is what there is to go by.
    const night = [first, ...(first.shows ? [] : others(sets, first.set).map((s) => openingOf(bench, s, hidden)))];
    return {
      bench,
      hidden,
      seed,
      night: night.map(({ at, step, result, expectedLpm }, i) => ({
        at,
        step,
        result: noisy(result, randomFrom(seed + 7 * i + 1)),
        expectedLpm,
      })),
    };
  }
  return null;
}

/** Other sets of the night that between them ran most stations. */
function others(sets: readonly Stretch[], first: Stretch): Stretch[] {
  const ran = new Set(first.stations);
  const chosen: Stretch[] = [];
  while (chosen.length < MOST_TOLD - 1) {
    const next = sets.reduce<Stretch | null>(
      (best, s) => (fresh(s, ran) > (best ? fresh(best, ran) : 0) ? s : best),
      null,
    );
    if (!next) break;
    for (const s of next.stations) ran.add(s);
    chosen.push(next);
  }
  return chosen;
}

const fresh = (set: Stretch, ran: ReadonlySet<number>): number => set.stations.filter((s) => !ran.has(s)).length;

/** What a set of the night says with this wrong, and whether that differs from a calm night. */
function openingOf(bench: DrillBench, set: Stretch, hidden: Cause): Opening & { shows: boolean; set: Stretch } {
  const { site } = bench;
  const running = set.stations.map((i) => nth(site.stations, i));
  const step: Step = {
    standing: {
      open: running.map((s) => s.id),
      valves: bench.masterValves,
      pumps: running.some((s) => s.usesPump !== false) ? bench.pumps : [],
    },
    check: { type: "read" },
  };
  const result = bench.result(hidden, step.standing, step.check);
  const calm = bench.result(null, step.standing, step.check);
  return {
    set,
    at: set.from + 90,
    step,
    result,
    expectedLpm: calm.type === "read" ? calm.flow.reduce((sum, f) => sum + f.lpm, 0) : 0,
    shows: !sameResult(result, calm),
  };
}

/** Makes a step on the bench: what it says, how long it takes, and what is lost and used meanwhile. */
export function tell(drill: Drill, step: Step, before: Standing, index: number): Told {
  const { bench, hidden } = drill;
  const seconds = stepSeconds(step, before);
  const { seen } = bench.settled(hidden, step.standing);
  const litres = (lpm: number): number => (lpm * seconds) / 60;
  return {
    result: noisy(bench.result(hidden, step.standing, step.check), randomFrom(drill.seed + 101 * (index + 1))),
    seconds,
    lostL: litres(seen.lostLpm),
    usedL: litres(seen.deliveredLpm),
  };
}

/** All steps in a row. */
export function tellAll(drill: Drill, steps: readonly Step[]): Told[] {
  return steps.map((s, i) => tell(drill, s, steps[i - 1]?.standing ?? ALL_SHUT, i));
}

/** What naming a cause comes to. Named right is the hidden one, or one that nothing on this site tells from it. */
export function judgeDrill(drill: Drill, steps: readonly Step[], named: Cause): DrillOutcome {
  const told = tellAll(drill, steps);
  const exact = named.kind === drill.hidden.kind && named.subjectId === drill.hidden.subjectId;
  const alike = !exact && bestStep(drill.bench, [drill.hidden, named], ALL_SHUT) === null;
  const sum = (of: (t: Told) => number): number => told.reduce((total, t) => total + of(t), 0);
  return {
    right: exact || alike,
    hidden: drill.hidden,
    named,
    alike,
    seconds: sum((t) => t.seconds),
    lostL: sum((t) => t.lostL),
    usedL: sum((t) => t.usedL),
  };
}

/**
 * How it was gone about: what each step left possible, where another check would have told most more, and a short way. Worked out by what every possible cause would have
 * said (one thing wrong, of its usual size).
 */
export function adviseDrill(
  drill: Drill,
  steps: readonly Step[],
  onProgress: (share: number) => boolean = () => true,
): DrillAdvice | null {
  const { bench } = drill;
  let left = afterTheNight(drill);
  const short = shortWay(drill, left);
  if (!onProgress(0.4)) return null;
  const told = tellAll(drill, steps);
  const possible = [left.length];
  let better: DrillAdvice["better"] = null;
  for (const [i, step] of steps.entries()) {
    const before = steps[i - 1]?.standing ?? ALL_SHUT;
    const best = left.length > 1 ? bestStep(bench, left, before) : null;
    const made = rate(bench, left, step, before);
    if (
      best &&
      made.bits < best.bits &&
      (better === null || best.bits - made.bits > better.best.bits - better.made.bits)
    )
      better = { index: i, made, best };
    left = stillPossible(bench, left, step, nth(told, i).result);
    possible.push(left.length);
    if (!onProgress(0.4 + (0.6 * (i + 1)) / steps.length)) return null;
  }
  return { possible, better, short };
}

/** The causes under which the night would have read as it did. */
export function afterTheNight({ bench, night }: Drill): Cause[] {
  return night.reduce((left, n) => stillPossible(bench, left, n.step, n.result), bench.causes());
}

function shortWay(drill: Drill, from: Cause[]): DrillAdvice["short"] {
  const { bench, hidden } = drill;
  let left = from;
  let before = ALL_SHUT;
  const steps: DrillAdvice["short"]["steps"] = [];
  let seconds = 0;
  let lostL = 0;
  while (left.length > 1 && steps.length < MOST_SHORT) {
    const best = bestStep(
      bench,
      left,
      before,
      steps.map((x) => x.step),
    );
    if (!best) break;
    const result = bench.result(hidden, best.step.standing, best.step.check);
    left = stillPossible(bench, left, best.step, result);
    seconds += best.seconds;
    lostL += (bench.settled(hidden, best.step.standing).seen.lostLpm * best.seconds) / 60;
    steps.push({ step: best.step, result, left: left.length });
    before = best.step.standing;
  }
  return { steps, seconds, lostL };
}

/** The little that instruments differ from the truth, well inside what can be told apart. */
function noisy(result: Result, random: () => number): Result {
  const off = (v: number, share: number): number =>
    Math.max(0, Math.round(10 * v * (1 + share * (2 * random() - 1))) / 10);
  switch (result.type) {
    case "read":
      return {
        ...result,
        flow: result.flow.map((f) => ({ ...f, lpm: off(f.lpm, 0.005), swingLpm: off(f.swingLpm, 0.1) })),
        pressure: result.pressure.map((p) => ({ ...p, kPa: off(p.kPa, 0.005) })),
      };
    case "meter":
      return { ...result, lpm: off(result.lpm, 0.005) };
    case "gauge":
      return { ...result, kPa: off(result.kPa, 0.005) };
    case "look":
      return result;
  }
}
