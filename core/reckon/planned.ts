import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { EMPTY_AFTER_S } from "../judge/system.ts";
import type { Stretch as Planned } from "../limits/stretches.ts";
import { siteSensors } from "../network/sensing.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { fullAfterS, LEAST_S, type Nights, nightOf, pointsOf, type Stretch } from "./stretches.ts";

/**
 * What would be read of a night as planned, with every sensor there is.
 *
 * @param planned what runs together, and from when on its reading tells something
 * @param leastS what is steady for less is left out, s
 */
export function plannedStretches(w: Waterworks, planned: readonly Planned[], leastS = LEAST_S): Nights {
  const { timeZone } = w.site.site;
  const points = pointsOf(
    w,
    siteSensors(w).map((x) => x.sensor.id),
  );
  const shutSince = new Map<number, EpochS>();
  const stretches = [...planned]
    .sort((a, b) => a.from - b.from)
    .flatMap(({ system, from: opened, to, judgedFrom, stations }) => {
      const wasEmpty = opened - (shutSince.get(system) ?? Number.NEGATIVE_INFINITY) >= EMPTY_AFTER_S;
      shutSince.set(system, to);
      const open = [...stations].sort((a, b) => a - b);
      return points.flatMap((point): Stretch[] => {
        const set = open.filter((s) => point.covers.has(nth(w.stationMainline, s)));
        const on = point.systems.find((s) => s.index === system);
        if (set.length === 0 || !on) return [];
        const from = wasEmpty ? Math.max(judgedFrom, opened + fullAfterS(w, on)) : judgedFrom;
        const seconds = to - from;
        if (seconds < leastS) return [];
        const night = nightOf(timeZone, from);
        return [
          { night, point: point.id, set, open, from, to, ranS: to - opened, seconds, readings: seconds, meanLpm: 0 },
        ];
      });
    });
  return { points, stretches };
}
