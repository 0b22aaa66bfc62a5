import { nth } from "../checked.ts";
import type { TaughtSet } from "../judge/taught-sets.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { neverApart } from "./apart.ts";
import { continued, type Finding, findingsOf } from "./findings.ts";
import { Model, type NightSays } from "./model.ts";
import { type Episode, type Morning, morningAfter } from "./morning.ts";
import { type Probe, probeFor } from "./probe.ts";
import { setsNow } from "./sets-now.ts";
import { type Log, type Nights, type Point, type Stretch, stretchesOf } from "./stretches.ts";
import type { Change } from "./window.ts";

/** So many nights are looked at together; what began before was found before. */
export const WINDOW_NIGHTS = 28;

export type ReckonedStation = {
  stationId: string;
  expectedLpm: number | null;
  /** Seen in these nights only; with one standard deviation. */
  nowLpm: number | null;
  sdLpm: number | null;
  seenAlone: number;
  seenInSets: number;
};
/** What is known on a morning. */
export type Reckoning = {
  nights: number;
  stretches: number;
  stations: ReckonedStation[];
  found: Finding[];
  neverApart: string[][];
  /** Of the newest morning: what sets that run together should read. */
  sets?: TaughtSet[];
};
/** What is known on the morning after a night, and how much of the work is done. */
export type KnownMorning = { night: string; reckoning: Reckoning; share: number };

/**
 * What the readings of some nights say of every station, main and sensor: their flows now, what has changed and since when, and who cannot be told apart.
 *
 * @param logs in any order; each in order of time
 * @returns what is known after the last of them; null where there is nothing steady in them
 */
export function reckon(w: Waterworks, logs: Iterable<Log>): Reckoning | null {
  let last: Reckoning | null = null;
  for (const { reckoning } of reckonMornings(w, readTogether(w, logs))) last = reckoning;
  return last;
}

/**
 * {@link reckon}, morning after morning: each by itself, with the nights before it, as it would be day by day. Whoever takes no more of them has cancelled it.
 *
 * @param before what was found up to the night before
 * @param from the first night whose morning is reckoned
 */
export function* reckonMornings(
  w: Waterworks,
  of: Nights,
  before: readonly Finding[] = [],
  from = "",
): Generator<KnownMorning, void> {
  const model = new Model(w, of.points, of.stretches);
  const nights = byNight(of.stretches).map(([night, stretches]) => model.says(night, stretches, model.begin));
  const begin = nights.findIndex((n) => n.night >= from);
  if (begin < 0) return;
  let found: Finding[] = [...before];
  for (let n = begin; n < nights.length; n++) {
    const window = nights.slice(Math.max(0, n + 1 - WINDOW_NIGHTS), n + 1);
    const events = figuresSince(model, window);
    const morning = morningAfter(model, window, events);
    const newest = n === nights.length - 1;
    const probed = (e: Episode): Probe | null => probeFor(model, window, morning, events, e);
    found = continued(found, findingsOf(model, window, morning, newest ? probed : undefined), nth(window, 0).night);
    const stretches = window.flatMap((x) => x.stretches);
    const reckoning = {
      nights: n + 1,
      stretches: stretches.length,
      stations: stationsNow(model, stretches, morning),
      found,
      neverApart: neverApart(stretches)
        .filter((g) => g.length > 1)
        .map((g) => g.map((s) => nth(w.site.stations, s).id)),
      ...(newest ? { sets: setsNow(model, window, morning) } : {}),
    };
    yield { night: nth(nights, n).night, reckoning, share: (n + 1 - begin) / (nights.length - begin) };
  }
}

/** A figure that was learned between these nights, or a station that was repaired, is of what is now: the nights before it may have been otherwise. */
function figuresSince({ w }: Model, nights: readonly NightSays[]): Change[] {
  return w.site.stations.flatMap((s, unknown): Change[] => {
    const known = [s.learned?.at, s.repairedAt].map((x) => Date.parse(x ?? "") / 1000).filter(Number.isFinite);
    const at = known.length > 0 ? Math.max(...known) : Number.NaN;
    const after = nights.findIndex((n) => (n.stretches[0]?.from ?? 0) >= at);
    // One that these nights themselves have read is of their end, though none came after it yet.
    const from = after < 0 && s.learned?.how === "nights" ? nights.length : after;
    return from > 0 ? [{ unknown, from, shape: "before" }] : [];
  });
}

function stationsNow(model: Model, stretches: readonly Stretch[], morning: Morning): ReckonedStation[] {
  const { stations } = model.w.site;
  const now = morning.window.now([...stations.keys()], morning.found);
  return stations.map((s, place): ReckonedStation => {
    const of = stretches.filter((x) => x.set.includes(place));
    const expected = nth(model.begin, place);
    const seen = of.length > 0 ? now[place] : undefined;
    return {
      stationId: s.id,
      expectedLpm: expected > 0 ? expected : null,
      nowLpm: seen?.mean ?? null,
      sdLpm: seen?.sd ?? null,
      seenAlone: of.filter((x) => x.set.length === 1).length,
      seenInSets: of.filter((x) => x.set.length > 1).length,
    };
  });
}

/** The stretches of all logs in order of time, and where they were read. */
export function readTogether(w: Waterworks, logs: Iterable<Log>): Nights {
  const points = new Map<string, Point>();
  const stretches: Stretch[] = [];
  for (const log of logs) {
    const read = stretchesOf(w, log);
    for (const p of read.points) points.set(p.id, p);
    stretches.push(...read.stretches);
  }
  return { points: [...points.values()], stretches: inOrder(stretches) };
}

export const inOrder = (stretches: Stretch[]): Stretch[] =>
  stretches.sort((a, b) => a.from - b.from || a.point.localeCompare(b.point));

function byNight(stretches: readonly Stretch[]): [string, Stretch[]][] {
  const nights = new Map<string, Stretch[]>();
  for (const s of stretches) {
    const of = nights.get(s.night) ?? [];
    of.push(s);
    nights.set(s.night, of);
  }
  return [...nights].sort(([a], [b]) => a.localeCompare(b));
}
