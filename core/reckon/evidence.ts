import { nth } from "../checked.ts";
import { median } from "../learn/odd.ts";
import type { Model, NightSays } from "./model.ts";
import { type Episode, type Morning, sizeAt } from "./morning.ts";
import type { Stretch } from "./stretches.ts";

/** So many of its readings are shown, the newest. */
const MOST_SHOWN = 40;
/** And so many nights before it began, for comparison. */
const NIGHTS_BEFORE = 2;

/** One steady reading of a set, beside what it should be without and with what was found, the supply of that night taken into account (handbook#12-last-night). */
export type Evidence = {
  night: string;
  from: number;
  stationIds: string[];
  readLpm: number;
  withoutLpm: number;
  withLpm: number;
  /** Of what is expected, one standard deviation. */
  sdLpm: number;
};

/** Its sensor noise, the swing of the supply within a night and how well the set's own figure fits, together, of a flow. */
const READING_SD = 0.008;

/** The readings in which a finding shows: of what it concerns, from a little before it began. */
export function evidenceOf(model: Model, nights: readonly NightSays[], morning: Morning, e: Episode): Evidence[] {
  const { w } = model;
  const known = morning.window.now([...model.unknowns.keys()], morning.found);
  const { unknown } = e.candidate;
  const last = nights.length - 1;
  const found: Evidence[] = [];
  for (let n = Math.max(0, e.from - NIGHTS_BEFORE); n <= last; n++) {
    const { night, stretches } = nth(nights, n);
    /** A reading of this night by what is known now, each change as it was then, and this one as `own`. */
    const expected = (s: Stretch, i: number, own: number): number => {
      const parts = model.response(s, s.meanLpm);
      let lpm = 0;
      for (const [u, by] of parts) lpm += by * nth(known, u).mean;
      for (const o of morning.episodes) {
        const then = o === e ? own : sizeAt(o, n, i);
        lpm += (parts.get(o.candidate.unknown) ?? 0) * (then - nth(o.byNight, last));
      }
      return lpm;
    };
    const factor = median(stretches.map((s, i) => s.meanLpm / Math.max(1, expected(s, i, sizeAt(e, n, i)))));
    for (const [i, s] of stretches.entries()) {
      if (!model.response(s, 1).has(unknown)) continue;
      found.push({
        night,
        from: s.from,
        stationIds: s.set.map((x) => nth(w.site.stations, x).id),
        readLpm: s.meanLpm,
        withoutLpm: factor * expected(s, i, 0),
        withLpm: factor * expected(s, i, sizeAt(e, n, i)),
        sdLpm: READING_SD * s.meanLpm,
      });
    }
  }
  return found.slice(-MOST_SHOWN);
}
