import { got, nth } from "../checked.ts";
import { localIso } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { neverApart } from "./apart.ts";
import { type Candidate, candidatesOf, changesIn, type Found } from "./changes.ts";
import { DRIFT_SD, Model, type NightSays } from "./model.ts";
import { type Log, type Point, type Stretch, stretchesOf } from "./stretches.ts";
import { type Known, updated, Window } from "./window.ts";

/** So many nights are looked at together; what began before was found before. */
const WINDOW_NIGHTS = 28;
/** A change that is found again is the same one if it begins within so many nights of it. */
const SAME_NIGHTS = 4;

/** Something that nights say has changed (handbook#12-last-night). */
export type Finding = {
  kind: "step" | "drift" | "sensor" | "mainline";
  /** Station ids (a never-apart group whole), mainline ids or ids of flow sensors; where it is not certain, all that it may be. */
  subjectIds: string[];
  /** When the first set that shows it opened. */
  since: string;
  /** As if alone at usual pressure, L/min; of a sensor the share by which it reads otherwise. */
  changeLpm: number;
  sdLpm: number;
  z: number;
  certain: boolean;
  /** What has gone, or was not given (below 0), since then, as far as was read. */
  litres: number;
  /** The morning on which it was first named. */
  named: string;
};
export type ReckonedStation = {
  stationId: string;
  expectedLpm: number | null;
  nowLpm: number | null;
  sdLpm: number | null;
  seenAlone: number;
  seenInSets: number;
};
export type Reckoning = {
  nights: number;
  stretches: number;
  stations: ReckonedStation[];
  found: Finding[];
  neverApart: string[][];
};
/** @returns false to cancel */
export type ReckonProgress = (share: number) => boolean;

/**
 * What the readings of some nights say of every station, main and sensor: their flows now, what has changed and since when, and who cannot be told apart. Each morning is
 * reckoned by itself, with the nights before it, as it would be day by day.
 *
 * @param logs in any order; each in order of time
 * @returns null where it was cancelled
 */
export function reckon(w: Waterworks, logs: Iterable<Log>, onProgress: ReckonProgress = () => true): Reckoning | null {
  const { points, stretches } = readTogether(w, logs);
  const model = new Model(w, points, stretches);
  const nights = byNight(stretches);
  const mornings = new Mornings(model);
  for (const [i, [night, of]] of nights.entries()) {
    mornings.add(night, of);
    if (!onProgress((i + 1) / nights.length)) return null;
  }
  const known = mornings.known();
  const { site } = w;
  const apart = neverApart(stretches).filter((g) => g.length > 1);
  const id = (s: number): string => nth(site.stations, s).id;
  return {
    nights: nights.length,
    stretches: stretches.length,
    stations: site.stations.map((s, place): ReckonedStation => {
      const of = stretches.filter((x) => x.set.includes(place));
      const variance = known.covariance[place * model.size + place] as number;
      const expected = nth(model.begin, place);
      return {
        stationId: s.id,
        expectedLpm: expected > 0 ? expected : null,
        nowLpm: of.length > 0 ? (known.mean[place] as number) : null,
        sdLpm: of.length > 0 ? Math.sqrt(variance) : null,
        seenAlone: of.filter((x) => x.set.length === 1).length,
        seenInSets: of.filter((x) => x.set.length > 1).length,
      };
    }),
    found: mornings.findings,
    neverApart: apart.map((g) => g.map(id)),
  };
}

/** The stretches of all logs in order of time, and where they were read. */
function readTogether(w: Waterworks, logs: Iterable<Log>): { points: Point[]; stretches: Stretch[] } {
  const points = new Map<string, Point>();
  const stretches: Stretch[] = [];
  for (const log of logs) {
    const read = stretchesOf(w, log);
    for (const p of read.points) points.set(p.id, p);
    stretches.push(...read.stretches);
  }
  stretches.sort((a, b) => a.from - b.from || a.point.localeCompare(b.point));
  return { points: [...points.values()], stretches };
}

function byNight(stretches: readonly Stretch[]): [string, Stretch[]][] {
  const nights = new Map<string, Stretch[]>();
  for (const s of stretches) nights.set(s.night, [...(nights.get(s.night) ?? []), s]);
  return [...nights].sort(([a], [b]) => a.localeCompare(b));
}

type Entry = { found: Found; begins: number; finding: Finding };

/** Night after night: what is known before the window, the nights in it, and what was found. */
class Mornings {
  private readonly model: Model;
  private readonly nights: NightSays[] = [];
  /** What is known before the first night of the window, and which that is. */
  private before: Known;
  private first = 0;
  private readonly entries: Entry[] = [];

  constructor(model: Model) {
    this.model = model;
    const covariance = new Float64Array(model.size * model.size);
    for (let i = 0; i < model.size; i++) covariance[i * model.size + i] = model.variance[i] as number;
    this.before = { mean: model.begin.slice(), covariance };
  }

  get findings(): Finding[] {
    return this.entries.map((e) => e.finding);
  }

  add(night: string, stretches: Stretch[]): void {
    const { model } = this;
    this.nights.push(model.says(night, stretches, this.before.mean));
    while (this.nights.length - this.first > WINDOW_NIGHTS) this.slide();
    const inWindow = this.nights.slice(this.first);
    const window = new Window(this.before, inWindow);
    const candidates = candidatesOf(
      model,
      inWindow.flatMap((n) => n.stretches),
    );
    const found = changesIn(model, window, candidates);
    for (let i = this.entries.length - 1; i >= 0; i--) {
      const e = nth(this.entries, i);
      // What was no more than a guess gives way to what is known a night later; what is sure stays.
      if (!e.finding.certain && e.begins >= this.first) this.entries.splice(i, 1);
    }
    for (const f of found) this.note(f, night);
  }

  /** What is known now. */
  known(): Known {
    let known = this.before;
    for (let i = this.first; i < this.nights.length; i++) known = this.lived(known, i);
    return known;
  }

  private slide(): void {
    this.before = this.lived(this.before, this.first);
    this.first++;
  }

  /** A night on: what was found to change in it is open, stations drift a little, and the readings are taken in. */
  private lived(known: Known, night: number): Known {
    const { size } = this.model;
    const covariance = known.covariance.slice();
    for (const { found, begins } of this.entries) {
      const open = found.shape === "step" ? begins === night : night >= begins;
      if (open)
        for (const m of found.candidate.members)
          covariance[m * size + m] = (covariance[m * size + m] as number) + (2 * found.size) ** 2;
    }
    for (const [i, u] of this.model.unknowns.entries())
      if (u.kind === "station")
        covariance[i * size + i] = (covariance[i * size + i] as number) + (DRIFT_SD * (known.mean[i] as number)) ** 2;
    return updated({ mean: known.mean, covariance }, nth(this.nights, night));
  }

  private note(found: Found, night: string): void {
    const begins = this.first + found.from;
    const finding = this.told(found, begins, night);
    const known = this.entries.find(
      (e) =>
        Math.abs(e.begins - begins) <= SAME_NIGHTS &&
        e.found.candidate.kind === found.candidate.kind &&
        e.found.candidate.members.some((m) => found.candidate.members.includes(m)),
    );
    if (known) Object.assign(known, { found, begins, finding: { ...finding, named: known.finding.named } });
    else this.entries.push({ found, begins, finding });
  }

  private told(found: Found, begins: number, named: string): Finding {
    const { site } = this.model.w;
    const since = this.nights.slice(begins).flatMap((n) => n.stretches);
    const { unknown } = found;
    const shows = since.filter((s) => this.model.response(s, 1).has(unknown));
    const litres = shows.reduce((sum, s) => {
      const expected = found.candidate.kind === "sensor" ? s.meanLpm : 1;
      return sum + (found.size * got(this.model.response(s, expected), unknown) * s.ranS) / 60;
    }, 0);
    const first = shows[0] ?? since[0];
    return {
      kind: kindOf(found),
      subjectIds: [...new Set(found.among.flatMap((c) => this.idsOf(c)))],
      since: first ? localIso(site.site.timeZone, first.from) : named,
      changeLpm: found.size,
      sdLpm: found.sd,
      z: Math.abs(found.z),
      certain: found.certain,
      litres,
      named,
    };
  }

  private idsOf({ members }: Candidate): string[] {
    const { w, unknowns, points } = this.model;
    return members.flatMap((i): string[] => {
      const u = nth(unknowns, i);
      if (u.kind === "station") return [nth(w.site.stations, u.place).id];
      if (u.kind === "main") return [nth(w.site.mainlines, u.place).id];
      return u.kind === "sensor" ? nth(points, u.point).sensorIds : [];
    });
  }
}

function kindOf({ candidate, shape }: Found): Finding["kind"] {
  if (candidate.kind === "main") return "mainline";
  if (candidate.kind === "sensor") return "sensor";
  return shape === "ramp" ? "drift" : "step";
}
