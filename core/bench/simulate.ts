import { type EpochS, localIso } from "../dates/wall-time.ts";
import type { Night } from "../dispatch/night.ts";
import { setLimits } from "../judge/set-limits.ts";
import { policyOfSet } from "../judge/policy-of.ts";
import { setRatio } from "../judge/set-ratio.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { alarmWords } from "../judge/alarm-words.ts";
import { beginBenchDay, type BenchDayOptions } from "./bench-day.ts";
import type { AlarmKind } from "../judge/alarm.ts";
import type { PlantSecond } from "./plant.ts";
import type { FileProblem } from "../site-file/parse-site.ts";

export type SimulateOptions = BenchDayOptions & {
  /** On the exact bench, passes over seconds that are like the one before until something happens; for sweeps, where only what happens matters. @default false */
  passCalm?: boolean;
  /** Called for every second with what was read; for a readings file. */
  onSecond?: (row: ReadingRow) => void;
  /** Called now and then with 0 to 1; false cancels. */
  onProgress?: (share: number) => boolean;
};
export type ReadingRow = {
  at: EpochS;
  readingLpm: number[];
  expectedLpm: number;
  highLpm: number | null;
  lowLpm: number | null;
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
const AFTER_LAST_CLOSE_S = 15 * 60;

/** One day of a site on the bench (handbook#9-bench), from 00:00 of the date to the later of 24:00 and 15 min after the last close. */
export function simulate(
  asked: SiteFile,
  options: SimulateOptions,
): { ok: true; result: Simulation } | { ok: false; problem: FileProblem } | { ok: false; cancelled: true } {
  const begun = beginBenchDay(asked, options);
  if (!begun.ok) return begun;
  const { site, w, zone, night, plant, controller, begin, midnight, exact } = begun.day;
  const wateredS = site.stations.map(() => 0);
  const dueS = site.stations.map(() => 0);
  for (const start of night.starts)
    for (const e of start.entries) dueS[e.station] = (dueS[e.station] as number) + e.cycles.reduce((a, b) => a + b, 0);

  // Watered: commanded open and getting at least half its expected flow; a station without a figure, any supply at all.
  const half = site.stations.map((s) => (expectedFlow(s)?.lpm ?? 0) / 2);
  const totals = { deliveredL: 0, lostL: 0 };
  const rows: TraceRow[] = [];
  let lastClose = begin;
  let t = begin;
  controller.begin(t);
  for (; t < midnight || !night.finished || controller.busy || t < lastClose + AFTER_LAST_CLOSE_S; t++) {
    if (night.running.length > 0 || controller.busy) lastClose = t + 1;
    const commands = controller.now;
    if (!options.onSecond && !controller.busy && plant.atRest(t, commands)) {
      const wake = Math.min(
        controller.nextChange(t),
        plant.nextFaultEdge(t),
        Math.max(midnight, lastClose + AFTER_LAST_CLOSE_S),
      );
      if (wake > t + 1) {
        // Every valve is shut: nothing flows and nothing is judged until the next event.
        t = wake - 2;
        controller.second(t + 1, plant.second(t, commands));
        continue;
      }
    }
    if (options.passCalm && exact && controller.quiet && plant.steady(t, commands)) {
      const wake = Math.min(
        controller.nextChange(t),
        plant.nextFaultEdge(t),
        Math.max(midnight, lastClose + AFTER_LAST_CLOSE_S),
      );
      if (wake > t + 2) {
        const seen = plant.second(t, commands);
        const passed = wake - 1 - t;
        totals.deliveredL += (passed * seen.deliveredLpm) / 60;
        totals.lostL += (passed * seen.lostLpm) / 60;
        for (const s of commands.stations)
          if ((seen.stationLpm.get(s) ?? -1) >= (half[s] as number)) wateredS[s] = (wateredS[s] as number) + passed;
        if (night.running.length > 0) lastClose = wake - 1;
        t = wake - 2;
        controller.second(t + 1, seen);
        continue;
      }
    }
    const seen = plant.second(t, commands);
    totals.deliveredL += seen.deliveredLpm / 60;
    totals.lostL += seen.lostLpm / 60;
    for (const s of commands.stations)
      if ((seen.stationLpm.get(s) ?? -1) >= (half[s] as number)) wateredS[s] = (wateredS[s] as number) + 1;
    if (options.onSecond || (t - begin) % TRACE_STEP_S === 0)
      record(w, night, t, seen, options.onSecond, (t - begin) % TRACE_STEP_S === 0 ? rows : null);
    if (
      options.onProgress &&
      (t - begin) % 1800 === 0 &&
      !options.onProgress(Math.min(1, (t - begin) / Math.max(1, midnight - begin)))
    )
      return { ok: false, cancelled: true };
    controller.second(t + 1, seen);
  }

  const iso = (at: EpochS): string => localIso(zone, at);
  const runs = [
    ...night.runs.map((r) => ({ ...r, test: false })),
    ...controller.testRuns.map((r) => ({ ...r, test: true })),
  ].sort((a, b) => a.start - b.start || a.end - b.end);
  const alarms = [...controller.alarms].sort((a, b) => a.at - b.at);
  return {
    ok: true,
    result: {
      runs: runs.map((r) => ({
        stationId: site.stations[r.station]?.id as string,
        programId: site.programs[r.program]?.id as string,
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
      totals,
      unwatered: site.stations.flatMap((s, i) => {
        const short = (dueS[i] as number) - (wateredS[i] as number);
        return short > 0 ? [{ stationId: s.id, minutes: short / 60 }] : [];
      }),
      trace: { stepS: TRACE_STEP_S, rows },
    },
  };
}

function record(
  w: Waterworks,
  night: Night,
  t: EpochS,
  seen: PlantSecond,
  onSecond: SimulateOptions["onSecond"],
  rows: TraceRow[] | null,
): void {
  const stations = night.running.map((e) => w.site.stations[e.station] as Station);
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
  onSecond?.({ ...row, readingLpm: seen.pocReading.map((r) => r ?? 0) });
  rows?.push({ ...row, readingLpm: seen.pocReading.reduce((sum: number, r) => sum + (r ?? 0), 0) });
}
