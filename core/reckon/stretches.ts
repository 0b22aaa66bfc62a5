import { nth } from "../checked.ts";
import { addDays, type EpochS, localClock, localDate } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { EMPTY_AFTER_S, fillS, holdOffS, type JudgedSystem, judgedSystems } from "../judge/system.ts";
import { pocSensing } from "../network/sensing.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { FlowSensor } from "../site-file/schema.ts";
import { jumpIn } from "./jump.ts";

/** What was read, in order of time: L/min by what it was read at (the id of a sensor or a POC, or {@link TOTAL}; null: nothing), and the places of the stations open. */
export type Log = { keys: readonly string[]; rows: readonly LogRow[] };
export type LogRow = { t: EpochS; flow: readonly (number | null)[]; open: readonly number[] };
/** Of the whole site, where nobody says which sensor. */
export const TOTAL = "total";

/** Where flow is told: the sum of a connected system, a mainline's own sensor, or the whole site. */
export type Point = {
  id: string;
  /** Columns of the log that are added up. */
  columns: number[];
  sensorIds: string[];
  /** The same by column. */
  sensorsOfColumns: string[][];
  /** Mainlines whose stations are seen here. */
  covers: ReadonlySet<number>;
  systems: JudgedSystem[];
  /** Under this the sensors see nothing, L/min. */
  minLpm: number;
};
/** One set of stations running together, once its hold-off was over (handbook#12-last-night), as long as what it reads does not jump. */
export type Stretch = {
  /** The date on which its night began; a night is from noon to noon. */
  night: string;
  /** Of the point. */
  point: string;
  /** Places of the stations behind the point, rising. */
  set: number[];
  /** All that ran on the site, rising: it sets the pressure. */
  open: number[];
  from: EpochS;
  to: EpochS;
  /** From the opening of the set on, for what it used. */
  ranS: number;
  seconds: number;
  readings: number;
  meanLpm: number;
  /** Where several columns are added up: the mean of each, in the order of the point's. */
  partsLpm?: number[];
};

/** The stretches of some nights, and where they were read. */
export type Nights = { points: Point[]; stretches: Stretch[] };

/** A stretch that is steady for less says nothing, s. */
export const LEAST_S = 20;
/** A row further from the one before says nothing of what lies between, s. */
const GAP_S = 90;
/** What still goes into a main is under a percent of the flow only after so many times the time in which it is called full. */
const FILLED = 1.5;

/** Where the columns of a log tell the flow of this site. */
export function pointsOf(w: Waterworks, keys: readonly string[]): Point[] {
  const systems = judgedSystems(w);
  const point = (
    at: Omit<Point, "minLpm" | "sensorIds" | "sensorsOfColumns">,
    sensors: readonly FlowSensor[],
    sensorsOfColumns = [sensors.map((s) => s.id)],
  ): Point => ({
    ...at,
    sensorsOfColumns,
    sensorIds: sensors.map((s) => s.id),
    minLpm: sensors.reduce((sum, s) => sum + (sensorRange(s).minLpm ?? 0), 0),
  });
  const only = systems.length === 1 ? systems[0] : undefined;
  if (keys.includes(TOTAL)) {
    const sensors = w.site.pocs.flatMap((_, p) => pocSensing(w, p).sensors);
    const at = { id: only ? `system ${only.index}` : TOTAL, covers: new Set(w.site.mainlines.keys()), systems };
    return [point({ ...at, columns: [keys.indexOf(TOTAL)] }, sensors)];
  }
  return systems.flatMap((system) =>
    system.points.flatMap(({ kind, pocs, mainline, covers, sensors }): Point[] => {
      const ids = kind === "system" ? pocs.map((p) => nth(w.site.pocs, p).id) : [];
      const own = sensors.map((s) => s.id);
      const told = [ids, own].find((x) => x.length > 0 && x.every((id) => keys.includes(id)));
      const id = kind === "system" ? `system ${system.index}` : `main ${mainline}`;
      const columns = (told ?? []).map((x) => keys.indexOf(x));
      const byColumn = told === ids ? pocs.map((p) => pocSensing(w, p).sensors.map((s) => s.id)) : own.map((x) => [x]);
      return told ? [point({ id, columns, covers, systems: [system] }, sensors, byColumn)] : [];
    }),
  );
}

/** The night that an instant belongs to, by the date on whose evening it began. */
export function nightOf(timeZone: string, t: EpochS): string {
  const date = localDate(timeZone, t);
  return localClock(timeZone, t) < "12:00" ? addDays(date, -1) : date;
}

/** The stretches of a log. What is under a sensor's minimum, in hours of hand watering, or shorter than {@link LEAST_S} after hold-off is left out. */
export function stretchesOf(w: Waterworks, log: Log): { points: Point[]; stretches: Stretch[] } {
  const points = pointsOf(w, log.keys);
  return { points, stretches: points.flatMap((point) => ofPoint(w, point, log.rows)) };
}

type Run = {
  key: string;
  set: number[];
  open: number[];
  begun: EpochS;
  settled: EpochS;
  /** Once it is settled: when, for how long, and what each column reads. */
  rows: { t: EpochS; s: number; read: number[] }[];
};

function ofPoint(w: Waterworks, point: Point, rows: readonly LogRow[]): Stretch[] {
  const hand = handWatering(w, point);
  const systems = new Set(point.systems.map((s) => s.index));
  const found: Stretch[] = [];
  const ends = (run: Run | null): void => {
    if (!run || run.set.length === 0) return;
    const { set, open, settled } = run;
    let [from, ranFrom] = [settled, run.begun];
    for (const rows of betweenJumps(run.rows)) {
      const seconds = sum(rows.map((r) => r.s));
      if (seconds < LEAST_S) continue;
      const to = nth(rows, rows.length - 1).t;
      const partsLpm = point.columns.map((_, i) => sum(rows.map((r) => r.s * nth(r.read, i))) / seconds);
      const meanLpm = sum(partsLpm);
      if (meanLpm >= point.minLpm && !hand(from) && !hand(to)) {
        const at = { night: nightOf(w.site.site.timeZone, from), point: point.id, set, open, from, to };
        const read = { ranS: to - ranFrom, seconds, readings: rows.length, meanLpm };
        found.push({ ...at, ...read, ...(partsLpm.length > 1 ? { partsLpm } : {}) });
      }
      [from, ranFrom] = [to, to];
    }
  };
  let run: Run | null = null;
  // Nobody knows how long it was shut before the log begins.
  let shutSince: EpochS | null = Number.NEGATIVE_INFINITY;
  let before = Number.NEGATIVE_INFINITY;
  for (const { t, flow, open } of rows) {
    const mine = open.filter((s) => systems.has(w.systemOfMainline[nth(w.stationMainline, s)] ?? -1));
    const key = [...mine].sort((a, b) => a - b).join();
    const read = readAt(point, flow);
    if (run === null || read === null || t - before > GAP_S || run.key !== key) {
      ends(run);
      const wasEmpty = shutSince !== null && t - shutSince >= EMPTY_AFTER_S;
      run = read === null ? null : begun(w, point, mine, key, t, wasEmpty);
      shutSince = mine.length === 0 ? (shutSince ?? t) : null;
    } else if (t > run.settled) {
      // A row stands for the time since the one before.
      run.rows.push({ t, s: t - before, read });
    }
    before = t;
  }
  ends(run);
  return found;
}

function begun(w: Waterworks, point: Point, mine: readonly number[], key: string, t: EpochS, wasEmpty: boolean): Run {
  const open = [...mine].sort((a, b) => a - b);
  const waits = point.systems.map((s) => Math.max(holdOffS(w, s, mine), wasEmpty ? fullAfterS(w, s) : 0));
  return {
    key,
    open,
    set: open.filter((s) => point.covers.has(nth(w.stationMainline, s))),
    begun: t,
    settled: t + Math.max(...waits),
    rows: [],
  };
}

/** The rows of a run, cut where what they read jumps. */
function betweenJumps(rows: Run["rows"]): Run["rows"][] {
  const reads = rows.map(({ s, read }) => ({ s, lpm: sum(read) }));
  const at = jumpIn(reads, LEAST_S);
  return at === null ? [rows] : [...betweenJumps(rows.slice(0, at)), ...betweenJumps(rows.slice(at))];
}

const sum = (all: readonly number[]): number => all.reduce((s, x) => s + x, 0);

/** So long after a main that stood empty opens, its flow is its stations', s. */
export const fullAfterS = (w: Waterworks, system: JudgedSystem): number => FILLED * fillS(w, system);

/** What each column of a point reads, L/min; null where one of them tells nothing. */
function readAt(point: Point, flow: LogRow["flow"]): number[] | null {
  const read: number[] = [];
  for (const column of point.columns) {
    const lpm = flow[column] ?? null;
    if (lpm === null) return null;
    read.push(lpm);
  }
  return read;
}

/** Whether water may be taken by hand at that instant behind a point: its readings say nothing of stations. */
function handWatering(w: Waterworks, point: Point): (t: EpochS) => boolean {
  const pocs = [...new Set(point.systems.flatMap((s) => s.pocs))].filter((p) => w.site.pocs[p]?.handWatering);
  if (pocs.length === 0) return () => false;
  let known: { date: string; calendar: CapacityCalendar } | null = null;
  return (t) => {
    const date = localDate(w.site.site.timeZone, t);
    if (known?.date !== date) known = { date, calendar: new CapacityCalendar(w, date) };
    const { calendar } = known;
    return pocs.some((p) => calendar.reserveLpm(p, t) > 0);
  };
}
