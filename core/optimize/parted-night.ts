import { randomFrom } from "../bench/random.ts";
import { nth } from "../checked.ts";
import type { Night } from "../dispatch/night.ts";
import { playNight } from "../dispatch/plan.ts";
import { duePrograms } from "../dispatch/queue.ts";
import { stretchesBetween } from "../limits/stretches.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { alike, neverApart } from "../reckon/apart.ts";
import { plannedStretches } from "../reckon/planned.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { playedScore, shortByStation } from "./night-score.ts";
import { smallChange } from "./small-change.ts";

/** A night that tells stations from each other that always ran together. */
export type PartedNight = {
  programs: Program[];
  makespanS: number;
  /** Groups that it still leaves together, by id. */
  together: string[][];
  /** Runs that stand elsewhere in their program's order. */
  moved: number;
};
export type PartedNights = {
  /** The night as it is. */
  now: PartedNight;
  /** What parts most in no more time than now; `now` itself where nothing does. */
  free: PartedNight;
  /** What parts most, in however long it takes. */
  most: PartedNight;
  /** Groups that it is about: of which somebody runs that night. */
  asked: number;
  tries: number;
};
export type PartedOptions = {
  /** Ids that cannot be told from each other by the nights so far; absent: by the night of that date alone. */
  groups?: string[][];
  seed: number;
  /** Asked between tries. */
  shouldStop: () => boolean;
  onBetter?: (nights: PartedNights) => void;
};

/** Runs apart that are steady for less are read too unsurely to tell much, s. */
const APART_S = 60;
/** Tries without anything better, of each station that is to be parted, after which nothing more is to be hoped for. */
const STUCK_PER_STATION = 120;

/**
 * Tonight's order that parts what is never apart, at no cost in minutes or at the least (handbook#12-last-night). Only what every controller takes is turned: order, number at once, priority; never days or
 * minutes, and never so that a station is left shorter. The fewest left together count first, then the least time more than now, then the fewest runs moved, then
 * the earliest end.
 */
export function partedNights(site: SiteFile, date: string, options: PartedOptions): PartedNights {
  const w = waterworks(site);
  const place = new Map(site.stations.map((s, i) => [s.id, i]));
  const first = playNight(w, date);
  const asked = options.groups?.map((g) => g.flatMap((id) => place.get(id) ?? []));
  const runs = new Set(first.runs.map((r) => r.station));
  const groups = (asked ?? neverApart(readOf(w, first))).filter((g) => g.length > 1 && g.some((s) => runs.has(s)));
  const shortNow = shortByStation(first);
  const score = (programs: Program[], night: Night): PartedNight => ({
    programs,
    makespanS: playedScore(w, night)[1],
    together: stillTogether(w, groups, night),
    moved: movedRuns(site.programs, programs),
  });
  const now = score(site.programs, first);
  const nights: PartedNights = { now, free: now, most: now, asked: groups.length, tries: 0 };
  if (groups.length === 0) return nights;
  const random = randomFrom(options.seed);
  const due = new Set(duePrograms(site, date).map(({ program }) => program.id));
  const patience = STUCK_PER_STATION * groups.flat().length;
  for (let stuck = 0; stuck < patience && !options.shouldStop(); stuck++) {
    const from = random() < 0.5 ? nights.free : nights.most;
    const about = from.together.flat().flatMap((id) => place.get(id) ?? []);
    const programs = smallChange(from.programs, site, due, about, random);
    nights.tries++;
    const night = playNight({ ...w, site: { ...site, programs } }, date);
    if ([...shortByStation(night)].some(([s, short]) => short > (shortNow.get(s) ?? 0))) continue;
    const next = score(programs, night);
    const free = next.makespanS <= now.makespanS && isBetter(next, nights.free, now);
    const most = isBetter(next, nights.most, now);
    if (free) nights.free = next;
    if (most) nights.most = next;
    if (!free && !most) continue;
    options.onBetter?.(nights);
    stuck = 0;
  }
  return nights;
}

/** What the sensors would read of a night, as far as it tells something. */
const readOf = (w: Waterworks, night: Night) =>
  plannedStretches(
    w,
    stretchesBetween(
      w,
      night.runs.map((r) => ({ s: r.station, from: r.start, to: r.end })),
    ),
    APART_S,
  ).stretches;

/** The groups that a night still leaves together, each in the parts that it leaves. A station that does not run that night tells nothing of itself. */
function stillTogether(w: Waterworks, groups: readonly number[][], night: Night): string[][] {
  const read = readOf(w, night);
  return groups.flatMap((group) => {
    const columns = (s: number): string => read.map((x) => (x.set.includes(s) ? 1 : 0)).join("");
    return alike(group, columns)
      .filter((g) => g.length > 1)
      .map((g) => g.map((s) => nth(w.site.stations, s).id));
  });
}

/** How many have still to be parted from somebody. */
const toPart = ({ together }: PartedNight): number => together.reduce((sum, g) => sum + g.length - 1, 0);

function isBetter(a: PartedNight, b: PartedNight, now: PartedNight): boolean {
  const rank = (n: PartedNight): number[] => [
    toPart(n),
    Math.max(0, n.makespanS - now.makespanS),
    n.moved,
    n.makespanS,
  ];
  const [x, y] = [rank(a), rank(b)];
  const at = x.findIndex((v, i) => v !== y[i]);
  return at >= 0 && (x[at] as number) < (y[at] as number);
}

function movedRuns(before: readonly Program[], after: readonly Program[]): number {
  return before.reduce((sum, p, i) => {
    const runs = after[i]?.runs ?? [];
    return sum + p.runs.filter((r, n) => runs[n]?.stationId !== r.stationId).length;
  }, 0);
}
