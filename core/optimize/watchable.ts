import { nth } from "../checked.ts";
import { randomFrom } from "../bench/random.ts";
import { duePrograms } from "../dispatch/queue.ts";
import { limitsByBudget } from "../limits/budget/budget.ts";
import { figuresOf } from "../limits/budget/figures.ts";
import { Ground, USUAL_ASSUMPTIONS } from "../limits/budget/ground.ts";
import { limitsOf } from "../limits/budget/take.ts";
import { judgedNight } from "../limits/judgement.ts";
import type { KeptProfile } from "../profiles/profile.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { smallChange } from "./small-change.ts";
import { NightWatch, type WatchedNight } from "./watched-night.ts";

export type WatchableNights = {
  now: WatchedNight;
  /** The most breaks seen for every length of night, the shortest first; of equal ones that in which most is judged. */
  frontier: WatchedNight[];
  tries: number;
};
export type WatchableOptions = {
  /** Seen in every set that a station runs in, instead of in one. */
  every?: boolean;
  seed: number;
  /** Where limits as they stand do not see everything, limits by budget at so many trips a season are tried too; absent: never. */
  budget?: { trips: number; profiles: readonly KeptProfile[] };
  /** Asked between tries: whether so much of the time there is has gone, of 1, or a cancel button was pressed. */
  shouldStop: (share: number) => boolean;
  /** Told of the frontier as it grows, and of the tries so far. */
  onBetter?: (nights: WatchableNights) => void;
};

/** Tries without anything new on the frontier, of each station that runs, after which nothing more is to be hoped for. */
const STUCK_PER_STATION = 60;
/** Of the time: for nights under the limits as they stand; and, of what is left, for nights under each of the limits that were found. */
const STAGES = { asTheyStand: 0.4, afterLimits: 0.1 };

/**
 * Nights that can be watched better, by how many minutes they take: every broken lateral seen in at least one set (or in every set), and as much run time as possible judged at all
 * (handbook#13-watched-night). Only what every controller takes is turned: order, priority and number at once; and where that does not show everything, the limits, by budget for the night as it is
 * then. Never days or minutes, and never so that a station is left shorter.
 */
export function watchableNights(site: SiteFile, date: string, options: WatchableOptions): WatchableNights {
  const { budget, shouldStop } = options;
  const first = budget ? STAGES.asTheyStand : 1;
  const nights = searched(site, date, { ...options, shouldStop: () => shouldStop(first) });
  const seen = (n: WatchedNight): number => (options.every ? n.lateralsSeenInEvery : n.lateralsSeen);
  const most = nights.frontier.reduce((a, b) => (seen(b) > seen(a) ? b : a), nights.now);
  if (!budget || seen(most) === most.stations || shouldStop(1)) return nights;
  // For the night as it is and for the shortest; what is found under the limits of one is another night, and stands if it trips no more than asked.
  const [shortest] = nights.frontier;
  let { frontier, tries } = nights;
  for (const [k, from] of [nights.now, ...(shortest ? [shortest] : [])].entries()) {
    const until = STAGES.asTheyStand + (1 - STAGES.asTheyStand) * ((k + 1) / 2);
    const base = { ...site, programs: from.programs };
    const best = limitsByBudget(base, date, {
      ...budget,
      shouldStop: () => shouldStop(until - STAGES.afterLimits),
    })?.best;
    if (!best) continue;
    const before = { frontier, tries };
    const under = searched(best.site, date, {
      ...options,
      shouldStop: () => shouldStop(until),
      onBetter: (found) => options.onBetter?.({ now: nights.now, ...before, tries: before.tries + found.tries }),
    });
    tries += under.tries;
    frontier = [under.now, ...under.frontier]
      .map((n) => withLimits(best.site, n, date))
      .filter((n) => (n.limits?.tripsPerSeason ?? 0) <= budget.trips)
      .reduce(withNight(options), frontier);
  }
  return { now: nights.now, frontier, tries };
}

/** A night found under the limits of a site, with them and with what they trip on it. */
function withLimits(site: SiteFile, night: WatchedNight, date: string): WatchedNight {
  const tuned = { ...site, programs: night.programs };
  const { tripsPerSeason } = figuresOf(new Ground(judgedNight(tuned, date), USUAL_ASSUMPTIONS, 1), tuned);
  return { ...night, limits: { ...limitsOf(site), tripsPerSeason } };
}

const aimOf =
  ({ every }: WatchableOptions) =>
  (n: WatchedNight): number =>
    (every ? n.lateralsSeenInEvery : n.lateralsSeen) + 0.999 * (n.watched ?? 0);

/** A frontier with one night more, without what that beats; the same where it is beaten. */
const withNight =
  (options: WatchableOptions) =>
  (frontier: WatchedNight[], night: WatchedNight): WatchedNight[] => {
    const aim = aimOf(options);
    const beats = (a: WatchedNight, b: WatchedNight): boolean => a.makespanS <= b.makespanS && aim(a) >= aim(b) - 1e-9;
    if (frontier.some((n) => beats(n, night))) return frontier;
    return [...frontier.filter((n) => !beats(night, n)), night].sort((a, b) => a.makespanS - b.makespanS);
  };

/**
 * Under the limits that the site has: numbers at once with like flows together first; from then on whatever stands on the frontier is changed where something is unseen, and stands if nothing beats it
 * in both.
 */
function searched(
  site: SiteFile,
  date: string,
  options: Omit<WatchableOptions, "shouldStop"> & { shouldStop: () => boolean },
): WatchableNights {
  const watch = new NightWatch(site, date);
  const random = randomFrom(options.seed);
  const nights: WatchableNights = { now: watch.watch(site.programs), frontier: [], tries: 0 };
  const add = withNight(options);
  const consider = (programs: Program[]): boolean => {
    nights.tries++;
    const night = watch.watch(programs);
    if ([...night.short].some(([s, short]) => short > (nights.now.short.get(s) ?? 0))) return false;
    const frontier = add(nights.frontier, night);
    if (frontier === nights.frontier) return false;
    nights.frontier = frontier;
    options.onBetter?.(nights);
    return true;
  };
  consider(site.programs);
  const due = new Set(duePrograms(site, date).map(({ program }) => program.id));
  for (const programs of openings(site, due)) {
    if (options.shouldStop()) return nights;
    consider(programs);
  }
  const patience = STUCK_PER_STATION * nights.now.stations;
  for (let stuck = 0; stuck < patience && !options.shouldStop(); stuck++) {
    const from = nth(nights.frontier, Math.floor(random() * nights.frontier.length));
    if (consider(smallChange(from.programs, site, due, from.unseen, random))) stuck = 0;
  }
  return nights;
}

/** Every number at once for all programs, in their orders as filed and by flow: like runs with like, so that no small one is lost beside large ones. */
function* openings(site: SiteFile, due: ReadonlySet<string>): Generator<Program[]> {
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  const byFlow = (p: Program, sign: number): Program => ({
    ...p,
    runs: [...p.runs].sort((a, b) => sign * ((flow.get(a.stationId) ?? 0) - (flow.get(b.stationId) ?? 0))),
  });
  const most = Math.max(1, ...site.programs.map((p) => (due.has(p.id) ? (p.maxStationsAtOnce ?? 1) : 1)));
  for (let atOnce = most; atOnce >= 1; atOnce--)
    for (const sign of [0, -1, 1])
      yield site.programs.map((p) => {
        if (!due.has(p.id)) return p;
        const fewer = { ...p, maxStationsAtOnce: Math.min(atOnce, p.maxStationsAtOnce ?? 1) };
        return sign === 0 ? fewer : byFlow(fewer, sign);
      });
}
