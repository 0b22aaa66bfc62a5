import { got, nth } from "../checked.ts";
import type { Model, NightSays } from "./model.ts";
import type { Episode, Morning } from "./morning.ts";
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
  const inWindow = nights.length;
  const found: Evidence[] = [];
  // What else changed is there on its nights in either case.
  const others = morning.episodes.filter((o) => o !== e);
  const from = Math.max(0, e.from - NIGHTS_BEFORE);
  for (let n = from; n < inWindow; n++) {
    const { night, stretches } = nth(nights, n);
    const last = inWindow - 1;
    /** By how much a reading of this night is to be taken back from what is known now. */
    const back = (o: Episode): number => {
      const then = o.until !== null && n >= o.until ? 0 : nth(o.byNight, n);
      const now = o.until !== null && last >= o.until ? 0 : nth(o.byNight, last);
      return then - now;
    };
    const ownNow = e.until === null ? nth(e.byNight, last) : 0;
    const ownThen = e.until !== null && n >= e.until ? 0 : nth(e.byNight, n);
    const expected = (s: Stretch, own: number): number => {
      const parts = model.response(s, s.meanLpm);
      let lpm = 0;
      for (const [u, by] of parts) lpm += by * nth(known, u).mean;
      for (const o of others) if (parts.has(o.candidate.unknown)) lpm += got(parts, o.candidate.unknown) * back(o);
      if (parts.has(unknown)) lpm += got(parts, unknown) * (own - ownNow);
      return lpm;
    };
    const factor = middle(stretches.map((s) => s.meanLpm / Math.max(1, expected(s, ownThen))));
    for (const s of stretches) {
      if (!model.response(s, 1).has(unknown)) continue;
      found.push({
        night,
        from: s.from,
        stationIds: s.set.map((x) => nth(w.site.stations, x).id),
        readLpm: s.meanLpm,
        withoutLpm: factor * expected(s, 0),
        withLpm: factor * expected(s, ownThen),
        sdLpm: READING_SD * s.meanLpm,
      });
    }
  }
  return found.slice(-MOST_SHOWN);
}

function middle(of: number[]): number {
  const sorted = of.sort((a, b) => a - b);
  return sorted.length === 0 ? 1 : (sorted[Math.floor(sorted.length / 2)] as number);
}
