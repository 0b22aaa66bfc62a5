import { got, nth } from "../checked.ts";
import { localIso } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { neverApart } from "./apart.ts";
import type { Candidate } from "./changes.ts";
import { Model, type NightSays } from "./model.ts";
import { type Episode, type Morning, morningAfter } from "./morning.ts";
import { type Log, type Point, type Stretch, stretchesOf } from "./stretches.ts";

/** So many nights are looked at together; what began before was found before. */
const WINDOW_NIGHTS = 28;
/** A change that is found again is the same one if it begins within so many nights of it. */
const SAME_NIGHTS = 4;

/** Something that nights say has changed (handbook#12-last-night). */
export type Finding = {
  kind: "step" | "drift" | "sensor" | "mainline";
  /** Station ids (a never-apart group whole), mainline ids or ids of flow sensors; where it is not certain, all that it may be. */
  subjectIds: string[];
  /** When the first set that shows it opened; and the first without it, where it ended. */
  since: string;
  until: string | null;
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
export type ReckonProgress = (share: number, night: string, found: readonly Finding[]) => boolean;

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
    if (!onProgress((i + 1) / nights.length, night, mornings.findings)) return null;
  }
  const { site } = w;
  const apart = neverApart(stretches).filter((g) => g.length > 1);
  const now = mornings.now();
  return {
    nights: nights.length,
    stretches: stretches.length,
    stations: site.stations.map((s, place): ReckonedStation => {
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
    }),
    found: mornings.findings,
    neverApart: apart.map((g) => g.map((s) => nth(site.stations, s).id)),
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

/** What was found, over the mornings: nights are counted from the first of all. */
type Entry = { episode: Episode; begins: number; finding: Finding; litresBefore: number };

/** Morning after morning, each with the nights of its window. */
class Mornings {
  private readonly model: Model;
  private readonly nights: NightSays[] = [];
  /** Of the window. */
  private first = 0;
  private entries: Entry[] = [];
  private last: Morning | null = null;

  constructor(model: Model) {
    this.model = model;
  }

  get findings(): Finding[] {
    return this.entries.map((e) => e.finding);
  }

  add(night: string, stretches: Stretch[]): void {
    this.nights.push(this.model.says(night, stretches, this.model.begin));
    while (this.nights.length - this.first > WINDOW_NIGHTS) {
      // What it cost on a night that is no longer looked at is kept as it was worked out last.
      for (const e of this.entries) e.litresBefore += this.litres(e.episode, this.first, this.first);
      this.first++;
    }
    const morning = morningAfter(this.model, this.nights.slice(this.first), []);
    this.last = morning;
    const known = this.entries;
    const again = new Set<Entry>();
    const now = morning.episodes.map((e): Entry => {
      const same = known.find((k) => !again.has(k) && this.isSame(k, e));
      if (same) again.add(same);
      return this.entry(e, night, same);
    });
    // What ended before the window stays as it was known; what is contradicted within it is no longer said.
    const past = known.filter((k) => !again.has(k) && k.finding.certain && k.begins < this.first);
    this.entries = [...past.map((k) => this.ended(k)), ...now];
  }

  /** What every station flows after the last night. */
  now(): { mean: number; sd: number }[] {
    return this.last?.window.now([...this.model.w.site.stations.keys()], this.last.found) ?? [];
  }

  private isSame({ episode, begins }: Entry, e: Episode): boolean {
    const near = Math.abs(begins - (this.first + e.from)) <= SAME_NIGHTS;
    const reaches = e.from === 0 || e.drift || episode.drift;
    return (
      (near || (reaches && (episode.until === null || begins < this.first))) &&
      episode.candidate.kind === e.candidate.kind &&
      Math.sign(episode.size) === Math.sign(e.size) &&
      episode.candidate.members.some((m) => e.candidate.members.includes(m))
    );
  }

  private entry(episode: Episode, night: string, same: Entry | undefined): Entry {
    const slid = same !== undefined && same.begins < this.first;
    const begins = slid ? same.begins : this.first + episode.from;
    const litresBefore = same?.litresBefore ?? 0;
    const finding = this.told(episode, night, litresBefore);
    if (same) finding.named = same.finding.named;
    if (slid) finding.since = same.finding.since;
    return { episode, begins, finding, litresBefore };
  }

  /** Since nothing of it is seen in the window, it had ended when that began. */
  private ended(e: Entry): Entry {
    const until = e.finding.until ?? this.opened(this.first);
    return { ...e, episode: { ...e.episode, byNight: new Float64Array(0) }, finding: { ...e.finding, until } };
  }

  private told(e: Episode, named: string, litresBefore: number): Finding {
    const shows = this.nights.slice(this.first + e.from).flatMap((n) => n.stretches.filter((s) => this.shows(e, s)));
    const { timeZone } = this.model.w.site.site;
    const begun = shows[0];
    return {
      kind: kindOf(e),
      subjectIds: [...new Set(e.among.flatMap((c) => this.idsOf(c)))],
      since: begun ? localIso(timeZone, begun.from) : this.opened(this.first + e.from),
      until: e.until === null ? null : this.opened(this.first + e.until),
      changeLpm: e.size,
      sdLpm: e.sd,
      z: e.z,
      certain: e.certain,
      litres: litresBefore + this.litres(e, this.first + e.from, this.nights.length - 1),
      named,
    };
  }

  private opened(night: number): string {
    const { night: date, stretches } = nth(this.nights, night);
    return stretches[0] ? localIso(this.model.w.site.site.timeZone, stretches[0].from) : date;
  }

  private shows(e: Episode, s: Stretch): boolean {
    return this.model.response(s, 1).has(e.candidate.unknown);
  }

  /** What went, or was not given, on some nights of the window. */
  private litres(e: Episode, from: number, to: number): number {
    let sum = 0;
    for (let n = from; n <= to; n++) {
      const size = n - this.first < (e.until ?? Number.POSITIVE_INFINITY) ? (e.byNight[n - this.first] ?? 0) : 0;
      if (size === 0) continue;
      for (const s of nth(this.nights, n).stretches)
        if (this.shows(e, s)) {
          const expected = e.candidate.kind === "sensor" ? s.meanLpm : 1;
          sum += (size * got(this.model.response(s, expected), e.candidate.unknown) * s.ranS) / 60;
        }
    }
    return sum;
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

function kindOf({ candidate, drift }: Episode): Finding["kind"] {
  if (candidate.kind === "main") return "mainline";
  if (candidate.kind === "sensor") return "sensor";
  return drift ? "drift" : "step";
}
