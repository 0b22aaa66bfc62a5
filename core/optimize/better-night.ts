import { nth } from "../checked.ts";
import { type Allowed, USUAL_CHANGES, wideOf, openings, everyOrder, repeats, tryNumbersAtOnce } from "./tunings.ts";
import { isOn, type Start, startsOn } from "../site-file/starts.ts";
import { type Random, randomFrom } from "../bench/random.ts";
import { duePrograms } from "../dispatch/queue.ts";
import { playNight, type Plan, planOf } from "../dispatch/plan.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { FastNight, type NightScore } from "./fast-night.ts";
import type { Tuning } from "./fast-facts.ts";
import { compareScores, playedScore, shortByStation, tuned } from "./night-score.ts";

/** Settings a real controller accepts; put into the file they give the plan from the plain command. */
export type NightSettings = {
  programs: { id: string; priority: number; maxStationsAtOnce: number; starts: Start[]; order: string[] }[];
};
export type BetterNight = Plan & { settings: NightSettings };
export type SearchOptions = {
  seed: number;
  /** Asked between tries: the caller's clock or cancel button. */
  shouldStop: () => boolean;
  /** @default USUAL_CHANGES */
  allowed?: Allowed;
  /** Told of every better site found, with its score and the tries so far. */
  onBetter?: (site: SiteFile, score: NightScore, tries: number) => void;
};

/** Late acceptance: a change is kept when it is no worse than what stood this many changes ago. */
const MEMORY = 60;
const STUCK = 2500;
const MEAN_WEIGHT = 0.3;

/**
 * Searches order, priority and each program's number at once (and, where allowed, start times and programs of equal days) for the
 * earliest end inside the windows, then the fewest starts of pumps, then the smoothest flow (handbook#6-better-night). Never other days or minutes, and
 * never past the numbers at once of controller and site. Small sites are tried whole; else classic orders first, then late-acceptance hill
 * climbing (Burke and Bykov) with seeded moves, begun anew where it is stuck.
 */
export function betterNight(site: SiteFile, date: string, options: SearchOptions): BetterNight {
  return withSettings(betterSite(site, date, options), date);
}

/** The same, as a site file with the better settings in it. */
export function betterSite(site: SiteFile, date: string, options: SearchOptions): SiteFile {
  const search = new Search(site, date, options);
  return search.run();
}

/** Seconds that no night beats whatever a search may change. `litresS`: by litres, ceilings and numbers at once alone; what lies between the two is known to be out of reach. */
export type SearchBounds = { boundS: number; litresS: number };

/** It stands still while settings are searched, which a night's own bound does not. */
export function searchBounds(site: SiteFile, date: string, allowed: Allowed): SearchBounds {
  // With as many at once as the search may try.
  const wide: SiteFile = allowed.atOnce
    ? {
        ...site,
        programs: site.programs.map((p) => ({
          ...p,
          maxStationsAtOnce: wideOf({ order: p.runs.map((_, i) => i), priority: 1, atOnce: p.maxStationsAtOnce ?? 1 }),
        })),
      }
    : site;
  const free = { ...waterworks(site), site: wide };
  const bounds = planOf(free, playNight(free, date));
  const litresS = bounds.lowerBoundS;
  return { litresS, boundS: allowed.starts || allowed.moves ? litresS : bounds.lateStartBoundS };
}

type Scored = { tuning: Tuning; score: NightScore };
/** One set of programs on trial, and how a tuning of it is scored; `beat`: a score that it must beat to be of any use. */
type Trial = {
  base: SiteFile;
  fast: FastNight | null;
  filed: Tuning;
  evaluate: (tuning: Tuning, beat?: NightScore) => NightScore;
};

class Search {
  private readonly original: SiteFile;
  private best: SiteFile;
  private bestScore: NightScore;
  private tries = 0;
  private readonly random: Random;
  private readonly allowed: Allowed;
  private readonly floorS: number;
  /** Of the night as it is: no station may be left shorter. */
  private readonly short: Map<number, number>;
  private readonly date: string;
  private readonly options: SearchOptions;

  constructor(site: SiteFile, date: string, options: SearchOptions) {
    this.date = date;
    this.options = options;
    this.random = randomFrom(options.seed);
    this.allowed = options.allowed ?? USUAL_CHANGES;
    this.original = site;
    this.best = site;
    const w = waterworks(site);
    const night = playNight(w, date);
    this.bestScore = playedScore(w, night);
    this.short = shortByStation(night);
    this.floorS = searchBounds(site, date, this.allowed).boundS;
  }

  run(): SiteFile {
    this.tune(this.best);
    // Starts and moves change what there is to tune; each variant gets its own tuning, and stands only when it ends earlier.
    if (this.allowed.starts || this.allowed.moves)
      for (let misses = 0; misses < 40 && !this.done(); ) {
        const before = this.bestScore;
        const variant = changedPrograms(this.best, this.date, this.allowed, this.random);
        if (variant === null) break;
        this.tune(variant, 400);
        misses = compareScores(this.bestScore, before) < 0 ? 0 : misses + 1;
      }
    const modest = noMoreAtOnceThanUsed(this.best, this.original, this.date);
    const same = compareScores(slowScore(waterworks(modest), this.date, modest), this.bestScore) <= 0;
    return same ? modest : this.best;
  }

  private done(): boolean {
    return this.options.shouldStop() || (this.bestScore[0] === 0 && this.bestScore[1] <= this.floorS + 1);
  }

  private consider(base: SiteFile, fast: FastNight | null, tuning: Tuning, score: NightScore): void {
    if (compareScores(score, this.bestScore) >= 0) return;
    const site = tuned(base, fast, tuning);
    if (score[0] > 0 && this.leavesShorter(site)) return;
    this.best = site;
    this.bestScore = score;
    this.options.onBetter?.(this.best, score, this.tries);
  }

  /** A night with fewer minutes short in all may still take them from another station. */
  private leavesShorter(site: SiteFile): boolean {
    const short = shortByStation(playNight(waterworks(site), this.date));
    return [...short].some(([station, s]) => s > (this.short.get(station) ?? 0));
  }

  /** Tunes one set of programs; `most` tries, absent: until told to stop or nothing more comes of it. */
  private tune(base: SiteFile, most = Number.POSITIVE_INFINITY): void {
    const trial = this.trial(base);
    const all = trial.fast && most === Number.POSITIVE_INFINITY ? everyOrder(trial.filed, this.allowed) : null;
    if (trial.fast && all) this.tryAll(trial, trial.fast, all);
    else this.climb(trial, this.tries + most);
  }

  private trial(base: SiteFile): Trial {
    const w = waterworks(base);
    const fast = FastNight.of(w, this.date);
    const filed: Tuning = fast
      ? fast.asFiled()
      : base.programs.map((p) => ({
          order: p.runs.map((_, i) => i),
          priority: p.priority ?? 1,
          atOnce: p.maxStationsAtOnce ?? 1,
        }));
    const evaluate = (tuning: Tuning, beat?: NightScore): NightScore => {
      this.tries++;
      const score = fast ? fast.score(tuning, beat) : slowScore(w, this.date, tuned(base, null, tuning));
      this.consider(base, fast, tuning, score);
      return score;
    };
    return { base, fast, filed, evaluate };
  }

  /** Every order there is, after the classic ones. */
  private tryAll({ base, filed, evaluate }: Trial, fast: FastNight, all: Iterable<Tuning>): void {
    for (const tuning of openings(base, fast, filed, this.allowed)) evaluate(tuning);
    const isRepeat = repeats(filed, fast);
    for (const tuning of all) {
      if (this.options.shouldStop()) return;
      if (isRepeat(tuning)) continue;
      if (!this.allowed.atOnce) evaluate(tuning, this.bestScore);
      else
        tryNumbersAtOnce(tuning, (t) => {
          evaluate(t, this.bestScore);
          return fast.usedAtOnce;
        });
    }
  }

  /** Late-acceptance hill climbing from the best of the classic orders, begun anew from the best so far where it is stuck. */
  private climb(trial: Trial, until: number): void {
    const { base, fast, filed, evaluate } = trial;
    let best: Scored = { tuning: filed, score: evaluate(filed) };
    for (const tuning of openings(base, fast, filed, this.allowed)) {
      if (this.done() || this.tries >= until) break;
      const score = evaluate(tuning);
      if (compareScores(score, best.score) < 0) best = { tuning, score };
    }
    const changeable = filed.flatMap((t, p) => (t.order.length > 0 ? [p] : []));
    if (changeable.length === 0) return;
    for (let rounds = 0; rounds < 60 && !this.done() && this.tries < until; rounds++)
      best = this.climbOnce(trial, best, changeable, until);
  }

  private climbOnce({ fast, evaluate }: Trial, from: Scored, changeable: number[], until: number): Scored {
    let best = from;
    let now = from.tuning;
    evaluate(now);
    let cost = guide(from.score, fast);
    let critical = fast?.lastMain ?? null;
    const memory = new Float64Array(MEMORY).fill(cost);
    for (let n = 0, stuck = 0; stuck < STUCK && !this.done() && this.tries < until; n++) {
      const tuning = moved(now, changeable, this.allowed, this.random, fast, critical);
      const score = evaluate(tuning);
      const asked = guide(score, fast);
      const better = compareScores(score, best.score) < 0;
      if (better) best = { tuning, score };
      stuck = better ? 0 : stuck + 1;
      const slot = n % MEMORY;
      const before = memory[slot] ?? cost;
      if (asked <= cost || asked <= before) {
        now = tuning;
        cost = asked;
        critical = fast?.lastMain ?? null;
      }
      if (cost < before) memory[slot] = cost;
    }
    return best;
  }
}

/** What the climb goes by: the end, and a little how late the litres come on the whole, since the end alone stands still for most changes. */
function guide(score: NightScore, fast: FastNight | null): number {
  return score[0] * 1e4 + score[1] + (fast ? MEAN_WEIGHT * fast.meanEndS : score[3] * 1e-3);
}

/** Numbers at once that were raised come down to what really runs at once; the night is the same, and the setting says what it means. */
function noMoreAtOnceThanUsed(site: SiteFile, original: SiteFile, date: string): SiteFile {
  const { runs } = playNight(waterworks(site), date);
  return {
    ...site,
    programs: site.programs.map((p, i) => {
      const mine = runs.filter((r) => r.program === i);
      const used = Math.max(1, ...mine.map((r) => mine.filter((x) => x.start <= r.start && r.start < x.end).length));
      const filed = original.programs.find((x) => x.id === p.id)?.maxStationsAtOnce ?? 1;
      const now = p.maxStationsAtOnce ?? 1;
      return now > filed && now > used ? { ...p, maxStationsAtOnce: Math.max(filed, used) } : p;
    }),
  };
}

function slowScore(w: Waterworks, date: string, site: SiteFile): NightScore {
  const same: Waterworks = { ...w, site };
  return playedScore(same, playNight(same, date));
}

function withSettings(site: SiteFile, date: string): BetterNight {
  const w = waterworks(site);
  return {
    ...planOf(w, playNight(w, date)),
    settings: settingsOf(site),
  };
}

/** What is set at the controllers for a night to come out like this. */
export function settingsOf(site: SiteFile): NightSettings {
  return {
    programs: site.programs.map((p) => ({
      id: p.id,
      priority: p.priority ?? 1,
      maxStationsAtOnce: p.maxStationsAtOnce ?? 1,
      starts: p.starts,
      order: p.runs.map((r) => r.stationId),
    })),
  };
}

/** One small change: two swapped, one or a few taken elsewhere, another number at once, another rank. */
function moved(
  tuning: Tuning,
  changeable: number[],
  allowed: Allowed,
  random: Random,
  fast: FastNight | null,
  critical: number | null,
): Tuning {
  const at = (n: number): number => Math.floor(random() * n);
  const p = nth(changeable, at(changeable.length));
  const t = nth(tuning, p);
  const dice = random();
  const put = (values: Partial<Tuning[number]>): Tuning => tuning.map((x, i) => (i === p ? { ...x, ...values } : x));
  if (allowed.atOnce && (dice < 0.04 || !allowed.order))
    return put({ atOnce: Math.max(1, Math.min(wideOf(t), t.atOnce + (random() < 0.5 ? -1 : 1))) });
  if (allowed.priority && changeable.length > 1 && (dice < 0.1 || !allowed.order))
    return put({ priority: 1 + at(changeable.length) });
  if (!allowed.order || t.order.length < 2) return tuning;
  return put({ order: reordered(t.order, dice, random, onCritical(t.order, p, fast, critical, random)) });
}

/** Places in an order of what runs on the main that closed last, mostly: elsewhere a change seldom moves the end. */
function onCritical(
  order: number[],
  program: number,
  fast: FastNight | null,
  critical: number | null,
  random: Random,
): number[] {
  if (!fast || critical === null || random() >= 0.8) return [];
  return order.flatMap((place, i) => (fast.mainOf(program, place) === critical ? [i] : []));
}

/** Two swapped, or one or a few taken elsewhere; among `there` where that has a choice. */
function reordered(from: number[], dice: number, random: Random, there: number[]): number[] {
  const order = [...from];
  const at = (n: number): number => Math.floor(random() * n);
  const spot = (): number => (there.length > 1 ? (there[at(there.length)] ?? 0) : at(order.length));
  const first = spot();
  if (dice < 0.5) {
    const second = spot();
    [order[first], order[second]] = [order[second] ?? 0, order[first] ?? 0];
  } else {
    const taken = order.splice(first, dice < 0.9 ? 1 : 1 + at(3));
    order.splice(Math.min(order.length, spot()), 0, ...taken);
  }
  return order;
}

const firstStart = (program: Program): string => nth(startsOn(program), 0);

/** Another start time of a program, or a station taken into a program of equal days, hours and controller. Null: there is none to make. */
function changedPrograms(site: SiteFile, date: string, allowed: Allowed, random: Random): SiteFile | null {
  const due = duePrograms(site, date)
    .map((d) => d.program)
    .filter((p) => startsOn(p).length === 1 && p.runs.length > 0);
  const pairs = due.flatMap((a) => due.filter((b) => a !== b && areAlike(a, b)).map((b) => ({ a, b })));
  const pick = <T>(list: T[]): T | undefined => list[Math.floor(random() * list.length)];
  if (allowed.moves && pairs.length > 0 && (!allowed.starts || random() < 0.5)) return withOneMoved(site, pairs, pick);
  return allowed.starts && due.length >= 2 ? withOtherStart(site, due, pick) : null;
}

/** Could a station run in either of two programs and be watered on the same days in the same hours? */
function areAlike(a: Program, b: Program): boolean {
  const of = (p: Program): string =>
    JSON.stringify([
      p.controllerId,
      ...[p.days, p.windows, p.closedHours, p.seasonalPercent, p.monthlyPercent, p.from, p.until].map((x) => x ?? null),
    ]);
  return of(a) === of(b);
}

type Pick = <T>(list: T[]) => T | undefined;

function withOneMoved(site: SiteFile, pairs: { a: Program; b: Program }[], pick: Pick): SiteFile {
  const pair = pick(pairs);
  const run = pair ? pick(pair.a.runs) : undefined;
  if (!pair || !run || pair.b.runs.some((r) => r.stationId === run.stationId)) return site;
  return {
    ...site,
    programs: site.programs.map((p) => {
      if (p.id === pair.a.id) return { ...p, runs: p.runs.filter((r) => r !== run) };
      return p.id === pair.b.id ? { ...p, runs: [...p.runs, run] } : p;
    }),
  };
}

function withOtherStart(site: SiteFile, due: Program[], pick: Pick): SiteFile | null {
  const later = due.filter((p) => due.some((q) => firstStart(q) < firstStart(p)));
  const program = pick(later.length > 0 ? later : due);
  const start = pick([...new Set(due.map(firstStart))].filter((s) => program && s !== firstStart(program)));
  if (!program || !start) return null;
  return {
    ...site,
    programs: site.programs.map((p) =>
      p.id === program.id ? { ...p, starts: p.starts.map((s) => (isOn(s) ? start : s)) } : p,
    ),
  };
}
