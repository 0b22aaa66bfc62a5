import { got, nth } from "../checked.ts";
import type { PlanRun } from "../dispatch/plan.ts";
import { addDays } from "../dates/wall-time.ts";
import { stretchesOf } from "../limits/stretches.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { candidatesOf, neededZ } from "./changes.ts";
import { Model } from "./model.ts";
import { plannedStretches } from "./planned.ts";
import { Window } from "./window.ts";

/** What two changes do to readings is the same from so much on. */
const SAME = 0.9999;

/** From which size on a change of a station is named for certain on the morning after some nights like one. */
export type WouldFind = {
  stationId: string;
  /** L/min, as if alone; null where its sets never tell it from another. */
  fromLpm: number | null;
  /** Who always runs with it: it is named together with them. */
  besideIds: string[];
};

/**
 * What the readings of a night as planned would tell of every station that runs in it, before anything is read: how unsure a change would be, and how far another would explain
 * the same readings (handbook#12-last-night). A change is named where z is over 5 and beats every other; of one of size q the z is q ÷ its standard deviation, and another explains
 * as much of it as their readings are alike.
 *
 * @param nights so many like this one since it began
 */
export function wouldFind(w: Waterworks, runs: readonly PlanRun[], nights = 1): WouldFind[] {
  const { site } = w;
  const { points, stretches: planned } = plannedStretches(w, stretchesOf(w, runs));
  const repeated = Array.from({ length: nights }, (_, n) =>
    planned.map((s) => ({ ...s, night: addDays(s.night, n), from: s.from + 86_400 * n, to: s.to + 86_400 * n })),
  );
  const all = repeated.flat();
  if (all.length === 0) return [];
  const model = new Model(w, points, all);
  const window = new Window(
    { mean: model.begin, variance: model.variance },
    repeated.map((of) => model.says(of[0]?.night ?? "", of, model.begin)),
  );
  const candidates = candidatesOf(model, planned);
  const step = [{ from: 0, shape: "step" as const }];
  const byItself = window.beside([]);
  const alone = new Map(candidates.map((c) => [c, byItself(c.unknown, step)[0]?.sd ?? Number.POSITIVE_INFINITY]));
  return candidates.flatMap((c): WouldFind[] => {
    if (c.kind !== "station") return [];
    const sd = got(alone, c);
    // With another held free less is told of this one: by that they are alike.
    const beside = window.beside([{ unknown: c.unknown, from: 0, shape: "step" }]);
    let alike = 0;
    for (const rival of candidates) {
      if (rival === c) continue;
      const left = beside(rival.unknown, step)[0]?.sd ?? Number.POSITIVE_INFINITY;
      const own = got(alone, rival);
      if (Number.isFinite(own)) alike = Math.max(alike, Math.sqrt(Math.max(0, 1 - (own / left) ** 2)));
    }
    const fromLpm = alike > SAME || !Number.isFinite(sd) ? null : neededZ(alike) * sd;
    const ids = c.members.map((m) => nth(site.stations, m).id);
    return ids.map((stationId) => ({ stationId, fromLpm, besideIds: ids.filter((id) => id !== stationId) }));
  });
}
