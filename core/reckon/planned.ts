import { nth } from "../checked.ts";
import type { Stretch as Planned } from "../limits/stretches.ts";
import { siteSensors } from "../network/sensing.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Nights } from "./reckon.ts";
import { LEAST_S, nightOf, pointsOf, type Stretch } from "./stretches.ts";

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
  const stretches = planned.flatMap(({ system, from, to, judgedFrom, stations }) => {
    const seconds = to - judgedFrom;
    if (seconds < leastS) return [];
    const open = [...stations].sort((a, b) => a - b);
    const night = nightOf(timeZone, judgedFrom);
    const common = { night, open, from: judgedFrom, to, ranS: to - from, seconds, readings: seconds, meanLpm: 0 };
    return points.flatMap((point): Stretch[] => {
      const set = open.filter((s) => point.covers.has(nth(w.stationMainline, s)));
      if (set.length === 0 || !point.systems.some((s) => s.index === system)) return [];
      return [{ ...common, point: point.id, set }];
    });
  });
  return { points, stretches };
}
