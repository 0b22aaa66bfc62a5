import { nth } from "../checked.ts";
import { addDays } from "../dates/wall-time.ts";
import { plan } from "../dispatch/plan.ts";
import { setKey } from "../judge/set-ratio.ts";
import type { TaughtSet } from "../judge/taught-sets.ts";
import { stretchesOf } from "../limits/stretches.ts";
import type { Model, NightSays } from "./model.ts";
import type { Morning } from "./morning.ts";
import { plannedStretches } from "./planned.ts";
import type { Stretch } from "./stretches.ts";

/** The sets of so many nights to come are reckoned too, those that the next week runs. */
const DAYS_AHEAD = 7;

/**
 * What every set that was read, or is planned for the week to come, should read: the network's share of its stations' flows as they are known now, and what its own readings say beyond that. What has
 * changed and was not taken yet is left out: it is to be seen.
 */
export function setsNow(model: Model, nights: readonly NightSays[], morning: Morning): TaughtSet[] {
  const { w } = model;
  const known = morning.window.now([...model.unknowns.keys()], morning.found).map((x) => x.mean);
  for (const { candidate, byNight } of morning.episodes)
    known[candidate.unknown] = nth(known, candidate.unknown) - nth(byNight, byNight.length - 1);
  const read = nights.flatMap((n) => n.stretches);
  const last = nth(nights, nights.length - 1).night;
  const planned = Array.from({ length: DAYS_AHEAD }, (_, i) => plan(w.site, addDays(last, i + 1)).runs).flatMap(
    (runs) => plannedStretches(w, stretchesOf(w, runs)).stretches,
  );
  const sets = new Map<string, { stretch: Stretch; nights: Set<string> }>();
  for (const [stretches, wasRead] of [
    [read, true],
    [planned, false],
  ] as const)
    for (const stretch of stretches) {
      if (stretch.set.length < 2) continue;
      const key = setKey(stretch.set.map((s) => nth(w.site.stations, s).id));
      const of = sets.get(key) ?? { stretch, nights: new Set() };
      if (wasRead) of.nights.add(stretch.night);
      sets.set(key, of);
    }
  return [...sets.values()].flatMap(({ stretch, nights: on }) => taughtBy(model, known, stretch, on.size));
}

function taughtBy(model: Model, known: readonly number[], stretch: Stretch, nights: number): TaughtSet[] {
  const figures = stretch.set.map((s) => nth(model.begin, s));
  const partsLpm = figures.reduce((a, b) => a + b, 0);
  if (figures.some((f) => f <= 0)) return [];
  const shareLpm = model.predicted(stretch, model.begin);
  let [nowLpm, ownLpm] = [0, 0];
  for (const [u, by] of model.response(stretch, shareLpm)) {
    const { kind } = nth(model.unknowns, u);
    if (kind === "station") nowLpm += by * nth(known, u);
    if (kind === "misfit") ownLpm += by * nth(known, u);
  }
  return [
    {
      stationIds: stretch.set.map((s) => nth(model.w.site.stations, s).id),
      ratio: (nowLpm + ownLpm) / partsLpm,
      drawn: (shareLpm + ownLpm) / partsLpm,
      partsLpm,
      nights,
    },
  ];
}
