import { nth } from "../checked.ts";
import { addDays } from "../dates/wall-time.ts";
import { fillS, holdOffS } from "../judge/system.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { beatingZ, hasFigure, neededZ } from "./changes.ts";
import { Model, type NightSays } from "./model.ts";
import type { Episode, Morning } from "./morning.ts";
import type { Point, Stretch } from "./stretches.ts";
import { type Change, Window } from "./window.ts";

/** A run is read for so long once it is steady, s. */
const READ_S = 60;
/** No more runs than this are looked at; the smallest. */
const MOST_RUNS = 10;
/** Of the stations that it cannot be, so many at a point may be run to tell a main or a sensor: the smallest. */
const OTHERS = 2;
/** After the last set of the night so much later, s. */
const AFTER_S = 600;
const DAY_S = 86_400;

/** Extra running that settles where a change is: each station by itself, one after the other. Without any run the next night's own readings are likely to tell. */
export type Probe = { runs: ProbeRun[]; seconds: number; litres: number };
export type ProbeRun = { stationId: string; seconds: number; litres: number };
type Run = ProbeRun & { place: number; lpm: number; point: Point };

/** Whether readings leave it open where a change is. */
export const isUndecided = ({ certain, subjectIds }: { certain: boolean; subjectIds: readonly string[] }): boolean =>
  !certain || subjectIds.length > 1;

/** What is run by itself to make sure of a finding: what would settle it, else whatever it may be. */
export const aloneIds = ({ probe, subjectIds }: { probe?: Probe | null; subjectIds: string[] }): string[] =>
  probe && probe.runs.length > 0 ? probe.runs.map((r) => r.stationId) : subjectIds;

/**
 * The least extra running that settles what is undecided (handbook#12-last-night). It is reckoned as the change itself is: the nights read so far, the last one once more, and after it the runs, so that
 * the supply of that night is known; settled where each that it may be would beat every other if it is the one, and the likeliest be named. A station that has no figure has to be learned, whatever else is told.
 *
 * @param nights those looked at, and what was found in them; `events` as they were when it was found
 * @returns null where no running of single stations settles it
 */
export function probeFor(
  model: Model,
  nights: readonly NightSays[],
  morning: Morning,
  events: readonly Change[],
  episode: Episode,
): Probe | null {
  const suspects = episode.among.flatMap((c) => c.members);
  const { from, onset, drift } = episode;
  const shape = { from, shape: drift ? ("ramp" as const) : ("step" as const), ...(onset > 0 ? { onset } : {}) };
  const given: Change[] = [...events, ...morning.found.filter((f) => f.candidate !== episode.candidate)];
  const sizes = suspects.map((unknown) => Math.abs(morning.window.beside(given)(unknown, [shape])[0]?.size ?? 0));
  const tomorrow = new Tomorrow(model, nights);
  const settles = (runs: readonly Run[]): boolean => {
    const unlearned = suspects.some((s) => !hasFigure(model, s) && !runs.some((r) => r.place === s));
    if (unlearned) return false;
    const window = tomorrow.after(runs);
    const alone = window.beside(given);
    return suspects.every((a, i) => {
      const sd = alone(a, [shape])[0]?.sd ?? Number.POSITIVE_INFINITY;
      const z = nth(sizes, i) / sd;
      if (episode.candidate.members.includes(a) && z < neededZ(0)) return false;
      return suspects.every((b) => {
        if (a === b) return true;
        const left = window.beside([...given, { ...shape, unknown: b }])(a, [shape])[0]?.sd ?? Number.POSITIVE_INFINITY;
        return z >= beatingZ(Math.sqrt(Math.max(0, 1 - (sd / left) ** 2)));
      });
    });
  };
  const possible = runsThatTell(model, suspects);
  let runs: Run[] = [];
  for (const more of [null, ...possible]) {
    if (more) runs.push(more);
    if (!settles(runs)) continue;
    // What was added before something that told may not be needed any more, the dearest first.
    for (const r of [...runs].reverse()) {
      const without = runs.filter((x) => x !== r);
      if (settles(without)) runs = without;
    }
    return asProbe(runs);
  }
  return null;
}

function asProbe(runs: readonly Run[]): Probe {
  const told = runs.map(({ stationId, seconds, litres }) => ({ stationId, seconds, litres }));
  return {
    runs: told,
    seconds: told.reduce((sum, r) => sum + r.seconds, 0),
    litres: told.reduce((sum, r) => sum + r.litres, 0),
  };
}

/** Single stations that tell something: those that it may be; and, where it may be a main or a sensor, the smallest others behind it. The fewest litres first. */
function runsThatTell(model: Model, suspects: readonly number[]): Run[] {
  const { w, points } = model;
  const all = w.site.stations.flatMap((station, place): Run[] => {
    const main = nth(w.stationMainline, place);
    const point = points.find((p) => p.covers.has(main));
    const system = point?.systems.find((s) => s.index === w.systemOfMainline[main]);
    const lpm = expectedFlow(station)?.lpm ?? 0;
    if (!point || !system || lpm < point.minLpm) return [];
    const seconds = holdOffS(w, system, [place]) + fillS(w, system) + READ_S;
    return [{ stationId: station.id, place, lpm, point, seconds, litres: (lpm * seconds) / 60 }];
  });
  const own = all.filter((r) => suspects.includes(r.place));
  const elsewhere = suspects.filter((s) => nth(model.unknowns, s).kind !== "station");
  const others = elsewhere.flatMap((s) =>
    all
      .filter((r) => !suspects.includes(r.place) && model.response(stretchOf(r, "", 0), 1).has(s))
      .sort((a, b) => a.litres - b.litres)
      .slice(0, OTHERS),
  );
  return [...new Set([...own, ...others])].sort((a, b) => a.litres - b.litres).slice(0, MOST_RUNS);
}

/** What would be read of a run. */
function stretchOf({ place, lpm, point, seconds }: Run, night: string, from: number): Stretch {
  const read = { seconds: READ_S, readings: READ_S, meanLpm: lpm };
  return {
    ...read,
    night,
    point: point.id,
    set: [place],
    open: [place],
    from,
    to: from + READ_S,
    ranS: seconds,
  };
}

/** The nights that were read, and the last of them once more with some runs after it. */
class Tomorrow {
  private readonly model: Model;
  private readonly past: NightSays[];
  private readonly night: string;
  private readonly again: Stretch[];

  constructor({ w, points }: Model, nights: readonly NightSays[]) {
    const last = nth(nights, nights.length - 1);
    this.night = addDays(last.night, 1);
    this.again = last.stretches.map((s) => ({ ...s, night: this.night, from: s.from + DAY_S, to: s.to + DAY_S }));
    // A model of its own: sets that come back are no new evidence each time.
    this.model = new Model(w, points, [...nights.flatMap((n) => n.stretches), ...this.again]);
    this.past = nights.map((n) => this.model.says(n.night, n.stretches, this.model.begin));
  }

  after(runs: readonly Run[]): Window {
    const { model, night } = this;
    let from = Math.max(...this.again.map((s) => s.to)) + AFTER_S;
    const probed = runs.map((r) => {
      const stretch = stretchOf(r, night, from);
      from += r.seconds;
      return stretch;
    });
    const says = model.says(night, [...this.again, ...probed], model.begin);
    return new Window({ mean: model.begin, variance: model.variance }, [...this.past, says]);
  }
}
