import { nth } from "../checked.ts";
import { type EpochS, localDate } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { siteSensors } from "../network/sensing.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { type Point, pointsOf } from "../reckon/stretches.ts";
import type { Cause } from "./causes.ts";
import { FlowFor, type FlowParts, type Part } from "./flow-for.ts";
import { Running, type ToldEvent } from "./running.ts";
import { Known, type Span } from "./spans.ts";

/** What every sensor read at an instant, L/min, and what was open in the time that ended then; a sensor that is not named gave no value. */
export type Reading = { at: EpochS; flow: Readonly<Record<string, number>>; open: readonly string[] };
/** A run as it was planned: what is put in the place of what was not read. */
export type PlannedRun = { stationId: string; programId: string | null; from: EpochS; to: EpochS; lpm: number };
/** Water that went through a sensor, litres. No station: none was open. `estimated`: not read, but planned. */
export type WaterRow = {
  sensorId: string;
  stationId: string | null;
  programId: string | null;
  cause: Cause;
  estimated: boolean;
  litres: number;
};
/** What a sensor read: litres, for how many seconds, and where nothing is known of it. */
export type SensorDay = { sensorId: string; litres: number; seconds: number; gaps: Span[] };
/** Litres that a sensor had read since the day began. */
export type WaterCut = { at: EpochS; sensorId: string; litres: number };
export type WaterDayFigures = { rows: WaterRow[]; sensors: SensorDay[]; cuts: WaterCut[] };

/** A reading further from the one before says nothing of what lies between, s; at rest a gateway speaks once a minute. */
export const GAP_S = 90;

type Place = {
  point: Point;
  flowFor: FlowFor;
  known: Known;
  before: { at: EpochS; lpm: number } | null;
  litres: number[];
  /** The same, by cut. */
  atCuts: number[][];
  /** Over the limit since, and what is held back until it has lasted. */
  over: { since: EpochS; held: { parts: NonNullable<FlowParts["over"]>; litres: number[] }[] } | null;
};

/**
 * The water of one day of a site, from its readings in their order (handbook#14-season). Counted where it enters: at the sensors of its points of connection together, or
 * of mainlines where these have none; what flows through two sensors one after the other is counted once. A reading stands for the time since the one before it,
 * at most {@link GAP_S}; after a rest for a step only, since a gateway says at once when something flows.
 */
export class WaterDay {
  private readonly w: Waterworks;
  private readonly span: Span;
  private readonly stepS: number;
  private readonly cuts: readonly EpochS[];
  private readonly running: Running;
  private readonly places: Place[];
  private readonly rows = new Map<string, WaterRow>();

  /**
   * @param span the day's instants, its first included, its last not
   * @param stepS the time that a single reading is of, s: a gateway's second, a log's step
   * @param cuts instants of the day at which what was read by then is asked for
   */
  constructor(w: Waterworks, span: Span, { stepS = 1, cuts = [] }: { stepS?: number; cuts?: readonly EpochS[] } = {}) {
    this.w = w;
    this.span = span;
    this.stepS = stepS;
    this.cuts = cuts;
    this.running = new Running(w);
    const calendar = new CapacityCalendar(w, localDate(w.site.site.timeZone, span.from));
    this.places = whereItEnters(w).map((point) => ({
      point,
      flowFor: new FlowFor(w, point, this.running, calendar),
      known: new Known(),
      before: null,
      litres: point.sensorIds.map(() => 0),
      atCuts: cuts.map(() => point.sensorIds.map(() => 0)),
      over: null,
    }));
  }

  /** In the order of time, together with the readings; an event before the reading of its second. */
  event(told: ToldEvent): void {
    this.running.tell(told);
  }

  reading({ at, flow, open }: Reading): void {
    for (const place of this.places) {
      const lpm = place.point.sensorIds.map((id) => flow[id]);
      if (lpm.every((q): q is number => q !== undefined)) this.count(place, at, lpm, open);
    }
  }

  /**
   * What came of it.
   *
   * @param since from when on something may have been read: later than the day's begin where a gateway was set up in it
   * @param until up to when: now, on the day that is today
   * @param planned runs of the nights that reach into the day
   */
  figures({
    since = this.span.from,
    until,
    planned,
  }: {
    since?: EpochS;
    until: EpochS;
    planned: readonly PlannedRun[];
  }): WaterDayFigures {
    const day = within({ from: since, to: until }, this.span);
    const sensors: SensorDay[] = [];
    for (const place of this.places) {
      this.settle(place, false);
      const gaps = place.known.without(day);
      this.estimate(place, gaps, planned);
      const seconds = place.known.seconds;
      place.point.sensorIds.forEach((sensorId, i) => {
        sensors.push({ sensorId, litres: nth(place.litres, i), seconds, gaps });
      });
    }
    const cuts = this.cuts.flatMap((at, c) =>
      this.places.flatMap(({ point, atCuts }) =>
        point.sensorIds.map((sensorId, i): WaterCut => ({ at, sensorId, litres: nth(nth(atCuts, c), i) })),
      ),
    );
    return { rows: [...this.rows.values()], sensors, cuts };
  }

  private count(place: Place, at: EpochS, lpm: readonly number[], open: readonly string[]): void {
    const total = sum(lpm);
    const { before } = place;
    const sinceS = before && at - before.at <= GAP_S ? at - before.at : this.stepS;
    const flowsS = before?.lpm === 0 && total > 0 ? Math.min(sinceS, this.stepS) : sinceS;
    place.before = { at, lpm: total };
    place.known.add(within({ from: at - sinceS, to: at }, this.span));
    const { from, to } = within({ from: at - flowsS, to: at }, this.span);
    if (total === 0) {
      place.flowFor.turnTo(open, at);
      this.settle(place, false);
      return;
    }
    const parts = place.flowFor.parts(open, total, at);
    const litresTo = (end: EpochS): number[] => lpm.map((q) => (q * Math.max(0, Math.min(end, to) - from)) / 60);
    const litres = litresTo(to);
    addTo(place.litres, litres);
    this.cuts.forEach((cut, c) => {
      addTo(nth(place.atCuts, c), litresTo(cut));
    });
    this.add(place, parts.sure, litres);
    this.holdBack(place, parts.over, litres, at, flowsS);
  }

  /** What is over the limit is a break once it has lasted as long as the limits ask; else it was the stations'. */
  private holdBack(place: Place, over: FlowParts["over"], litres: number[], at: EpochS, flowsS: number): void {
    if (!over) {
      this.settle(place, false);
      return;
    }
    place.over ??= { since: at - flowsS, held: [] };
    place.over.held.push({ parts: over, litres });
    if (at - place.over.since < over.persistenceS) return;
    const { since } = place.over;
    this.settle(place, true);
    place.over = { since, held: [] };
  }

  private settle(place: Place, lasts: boolean): void {
    for (const { parts, litres } of place.over?.held ?? [])
      this.add(place, lasts ? parts.ifItLasts : parts.ifNot, litres);
    place.over = null;
  }

  private add(place: Place, parts: readonly Part[], litres: readonly number[]): void {
    place.point.sensorIds.forEach((sensorId, i) => {
      for (const { share, stationId, programId, cause } of parts)
        this.put({ sensorId, stationId, programId, cause, estimated: false }, nth(litres, i) * share);
    });
  }

  private put(of: Omit<WaterRow, "litres">, litres: number): void {
    if (litres <= 0) return;
    const key = `${of.sensorId}\n${of.stationId}\n${of.programId}\n${of.cause}\n${of.estimated}`;
    const row = this.rows.get(key);
    if (row) row.litres += litres;
    else this.rows.set(key, { ...of, litres });
  }

  /** What was to run while nothing was read; at the first sensor of where it enters. */
  private estimate({ point }: Place, gaps: readonly Span[], planned: readonly PlannedRun[]): void {
    for (const { stationId, programId, lpm, ...run } of planned) {
      const station = this.w.stationIndex.get(stationId);
      if (station === undefined || !point.covers.has(nth(this.w.stationMainline, station))) continue;
      const missedS = sum(gaps.map((g) => lengthS(within(g, run))));
      const sensorId = nth(point.sensorIds, 0);
      this.put({ sensorId, stationId, programId, cause: "scheduled", estimated: true }, (lpm * missedS) / 60);
    }
  }
}

const sum = (all: readonly number[]): number => all.reduce((s, x) => s + x, 0);
const within = (a: Span, b: Span): Span => ({ from: Math.max(a.from, b.from), to: Math.min(a.to, b.to) });
const addTo = (sums: number[], more: readonly number[]): void =>
  more.forEach((x, i) => {
    sums[i] = nth(sums, i) + x;
  });
const lengthS = ({ from, to }: Span): number => Math.max(0, to - from);

/** Where water is counted: the widest points that do not see the same mainlines twice. */
function whereItEnters(w: Waterworks): Point[] {
  const keys = siteSensors(w).map((s) => s.sensor.id);
  const taken = new Set<number>();
  return pointsOf(w, keys)
    .sort((a, b) => b.covers.size - a.covers.size)
    .filter((point) => {
      if ([...point.covers].some((m) => taken.has(m))) return false;
      for (const m of point.covers) taken.add(m);
      return true;
    });
}
