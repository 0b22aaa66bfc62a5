import { nth } from "../checked.ts";
import { type EpochS, localIso } from "../dates/wall-time.ts";
import type { BenchNight } from "./bench-night.ts";
import { setLimits } from "../judge/set-limits.ts";
import { policyOfSet } from "../judge/policy-of.ts";
import { setRatio } from "../judge/set-ratio.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { alarmWords } from "../judge/alarm-words.ts";
import { type BenchDay, beginBenchDay, type BenchDayOptions } from "./bench-day.ts";
import type { AlarmKind } from "../judge/alarm.ts";
import type { PlantSecond } from "./plant.ts";
import type { FileProblem } from "../site-file/parse-site.ts";

export type SimulateOptions = BenchDayOptions & {
  /** On the exact bench, passes over seconds that are like the one before until something happens; for sweeps, where only what happens matters. @default false */
  passCalm?: boolean;
  /** Called for every second with what was read; for a readings file. */
  onSecond?: (row: ReadingRow) => void;
  /** Seconds at rest are not told: nothing flows and nothing is open in them. @default false */
  restUntold?: boolean;
  /** Called now and then with 0 to 1; false cancels. */
  onProgress?: (share: number) => boolean;
};
export type ReadingRow = {
  at: EpochS;
  readingLpm: number[];
  expectedLpm: number;
  highLpm: number | null;
  lowLpm: number | null;
  /** Numbers of the stations that the controller has open, in a test too; rising. */
  open: number[];
};

export type Simulation = {
  runs: {
    stationId: string;
    programId: string;
    start: string;
    end: string;
    cycle: number;
    flowLpm: number | null;
    test: boolean;
  }[];
  events: { at: string; type: string; subjectId: string; reason: string }[];
  alarms: {
    at: string;
    kind: AlarmKind;
    subjectId: string;
    measuredLpm: number;
    expectedLpm: number;
    message: string;
  }[];
  lockouts: string[];
  stopped: { at: string; subjectId: string; reason: string }[];
  totals: { deliveredL: number; lostL: number };
  unwatered: { stationId: string; minutes: number }[];
  /** Systems' readings against their limits, one row a `stepS` seconds, for drawing. */
  trace: { stepS: number; rows: TraceRow[] };
};
export type TraceRow = {
  at: EpochS;
  readingLpm: number;
  expectedLpm: number;
  highLpm: number | null;
  lowLpm: number | null;
};

const TRACE_STEP_S = 10;
/** Of the day, between two words about its progress. */
const TOLD_EVERY_S = 1800;
const AFTER_LAST_CLOSE_S = 15 * 60;

/** One day of a site on the bench (handbook#9-bench), from 00:00 of the date to the later of 24:00 and 15 min after the last close. */
export function simulate(
  asked: SiteFile,
  options: SimulateOptions,
): { ok: true; result: Simulation } | { ok: false; problem: FileProblem } | { ok: false; cancelled: true } {
  const begun = beginBenchDay(asked, options);
  if (!begun.ok) return begun;
  const played = new PlayedDay(begun.day, options);
  return played.play() ? { ok: true, result: played.result() } : { ok: false, cancelled: true };
}

/** A day second by second: what was delivered, lost and watered, and what the sensors read. */
class PlayedDay {
  private readonly day: BenchDay;
  private readonly options: SimulateOptions;
  private readonly dueS: Float64Array;
  private readonly wateredS: Float64Array;
  /** Watered: commanded open and getting at least half its expected flow; a station without a figure, any supply at all. */
  private readonly half: Float64Array;
  private readonly totals = { deliveredL: 0, lostL: 0 };
  private readonly rows: TraceRow[] = [];
  private lastClose: EpochS;

  constructor(day: BenchDay, options: SimulateOptions) {
    this.day = day;
    this.options = options;
    this.wateredS = new Float64Array(day.site.stations.length);
    this.dueS = new Float64Array(day.site.stations.length);
    for (const start of day.night.starts)
      for (const e of start.entries)
        this.dueS[e.station] = nth(this.dueS, e.station) + e.cycles.reduce((a, b) => a + b, 0);
    this.half = Float64Array.from(day.site.stations, (s) => (expectedFlow(s)?.lpm ?? 0) / 2);
    this.lastClose = day.begin;
  }

  /** False: given up. */
  play(): boolean {
    const { plant, controller, night, begin } = this.day;
    let t = begin;
    controller.begin(t);
    for (; this.goesOn(t); t++) {
      if (night.running.length > 0 || controller.busy) this.lastClose = t + 1;
      const passedTo = this.passRest(t) ?? this.passCalm(t);
      if (passedTo !== null) {
        t = passedTo;
        continue;
      }
      const seen = plant.second(t, controller.now);
      this.add(seen, controller.now, 1);
      this.trace(t, seen);
      if (this.isGivenUp(t)) return false;
      controller.second(t + 1, seen);
    }
    return true;
  }

  private goesOn(t: EpochS): boolean {
    const { midnight, night, controller } = this.day;
    return t < midnight || !night.finished || controller.busy || t < this.lastClose + AFTER_LAST_CLOSE_S;
  }

  /** The next instant at which anything may change by itself. */
  private wakesAt(t: EpochS): EpochS {
    const { controller, plant, midnight } = this.day;
    return Math.min(
      controller.nextChange(t),
      plant.nextFaultEdge(t),
      Math.max(midnight, this.lastClose + AFTER_LAST_CLOSE_S),
    );
  }

  /** Every valve is shut: nothing flows and nothing is judged until the next event. Where it has passed to; null where it may not pass. */
  private passRest(t: EpochS): EpochS | null {
    const { plant, controller } = this.day;
    if ((this.options.onSecond && !this.options.restUntold) || controller.busy || !plant.atRest(t, controller.now))
      return null;
    const wake = this.wakesAt(t);
    if (wake <= t + 1) return null;
    controller.second(wake - 1, plant.second(wake - 2, controller.now));
    return wake - 2;
  }

  /** Nothing changes and nothing is being counted: seconds like this one are added up at once, where that was asked for and flows are exact. */
  private passCalm(t: EpochS): EpochS | null {
    const { plant, controller, night, exact } = this.day;
    if (!this.options.passCalm || !exact || !controller.quiet || !plant.steady(t, controller.now)) return null;
    const wake = this.wakesAt(t);
    if (wake <= t + 2) return null;
    const seen = plant.second(t, controller.now);
    this.add(seen, controller.now, wake - 1 - t);
    if (night.running.length > 0) this.lastClose = wake - 1;
    controller.second(wake - 1, seen);
    return wake - 2;
  }

  private add(seen: PlantSecond, commands: BenchDay["controller"]["now"], seconds: number): void {
    this.totals.deliveredL += (seconds * seen.deliveredLpm) / 60;
    this.totals.lostL += (seconds * seen.lostLpm) / 60;
    for (const s of commands.stations)
      if ((seen.stationLpm.get(s) ?? -1) >= nth(this.half, s)) this.wateredS[s] = nth(this.wateredS, s) + seconds;
  }

  private trace(t: EpochS, seen: PlantSecond): void {
    const { w, night, begin, controller } = this.day;
    const { onSecond } = this.options;
    const kept = (t - begin) % TRACE_STEP_S === 0;
    if (onSecond || kept) record(w, night, t, seen, controller.now.stations, onSecond, kept ? this.rows : null);
  }

  private isGivenUp(t: EpochS): boolean {
    const { begin, midnight } = this.day;
    const { onProgress } = this.options;
    if (!onProgress || (t - begin) % TOLD_EVERY_S !== 0) return false;
    return !onProgress(Math.min(1, (t - begin) / Math.max(1, midnight - begin)));
  }

  /** Minutes that each station is short of what was due. */
  private unwatered(): Simulation["unwatered"] {
    return this.day.site.stations.flatMap((s, i) => {
      const short = nth(this.dueS, i) - nth(this.wateredS, i);
      return short > 0 ? [{ stationId: s.id, minutes: short / 60 }] : [];
    });
  }

  result(): Simulation {
    const { site, zone, night, controller } = this.day;
    const iso = (at: EpochS): string => localIso(zone, at);
    const runs = [
      ...night.runs.map((r) => ({ ...r, test: false })),
      ...controller.testRuns.map((r) => ({ ...r, test: true })),
    ].sort((a, b) => a.start - b.start || a.end - b.end);
    const alarms = [...controller.alarms].sort((a, b) => a.at - b.at);
    return {
      runs: runs.map((r) => ({
        stationId: nth(site.stations, r.station).id,
        programId: nth(site.programs, r.program).id,
        start: iso(r.start),
        end: iso(r.end),
        cycle: r.cycle,
        flowLpm: r.flowLpm,
        test: r.test,
      })),
      events: [...controller.events].sort((a, b) => a.at - b.at).map((e) => ({ ...e, at: iso(e.at) })),
      alarms: alarms.map((a) => ({
        at: iso(a.at),
        kind: a.kind,
        subjectId: a.subjectId,
        measuredLpm: a.measuredLpm,
        expectedLpm: a.expectedLpm,
        message: alarmWords(site, a),
      })),
      lockouts: controller.lockouts,
      stopped: controller.stopped.map((s) => ({ ...s, at: iso(s.at) })),
      totals: this.totals,
      unwatered: this.unwatered(),
      trace: { stepS: TRACE_STEP_S, rows: this.rows },
    };
  }
}

function record(
  w: Waterworks,
  night: BenchNight,
  t: EpochS,
  seen: PlantSecond,
  openStations: Iterable<number>,
  onSecond: SimulateOptions["onSecond"],
  rows: TraceRow[] | null,
): void {
  const stations = night.running.map((e) => nth(w.site.stations, e.station));
  const limits =
    stations.length > 0
      ? setLimits(
          policyOfSet(
            w,
            night.running.map((e) => e.station),
          ),
          stations,
          0,
          setRatio(w.site, stations),
        )
      : null;
  const row = {
    at: t,
    expectedLpm: limits?.expectedLpm ?? 0,
    highLpm: limits?.highLpm ?? null,
    lowLpm: limits?.lowLpm ?? null,
  };
  onSecond?.({
    ...row,
    readingLpm: seen.pocReading.map((r) => r ?? 0),
    open: [...openStations].map((s) => nth(w.site.stations, s).number).sort((a, b) => a - b),
  });
  rows?.push({ ...row, readingLpm: seen.pocReading.reduce((sum: number, r) => sum + (r ?? 0), 0) });
}
