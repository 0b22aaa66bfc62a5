import { resolveFaults } from "../bench/faults/resolve.ts";
import { Plant } from "../bench/plant.ts";
import { randomFrom } from "../bench/random.ts";
import { fillS as systemFillS, holdOffS as systemHoldOffS, judgedSystems } from "../judge/system.ts";
import { addDays, type EpochS, instantOf } from "../calendar/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { FileProblem } from "../site-file/parse-site.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { baselineSight } from "./baseline.ts";
import { busyHours } from "./busy-hours.ts";
import { companionsFor, pumpMinimumLpm } from "./companions.ts";
import { learningOrder } from "./order.ts";
import { Measuring, type Measured, tapsOf } from "./measuring.ts";
import { refusals, type RefusalReason } from "./refusals.ts";
import { pulseWaitS } from "./steady.ts";

export type Verdict = "accepted" | "unsteady" | "noFlow" | "overCeiling" | "stopped";
export type LearnResult = {
  stationId: string;
  verdict: Verdict;
  meanLpm: number;
  sdLpm: number;
  samples: number;
  secondsToSteady: number | null;
  /** Stations that ran beside it, for one learned by difference. */
  companionIds?: string[];
};
/** Several stations as they run together, and how much less they use than each alone. */
export type SetResult = {
  stationIds: string[];
  verdict: Verdict;
  meanLpm: number;
  sdLpm: number;
  samples: number;
  secondsToSteady: number | null;
  partsLpm: number;
  ratio: number;
};
export type Baseline = {
  pocIds: string[];
  mainlineIds: string[];
  measuredLpm: number;
  limitLpm: number;
  flowing: boolean;
  /** With the pump off nothing stands under pressure: the test cannot see a leak. */
  blind?: boolean;
};
export type LearnEvent =
  | { type: "baseline"; at: EpochS; baseline: Baseline }
  | { type: "refused"; stationId: string; reasons: RefusalReason[] }
  | { type: "waits"; at: EpochS; until: EpochS; why: "handWatering" | "scheduledRuns" }
  | { type: "left"; at: EpochS; stationIds: string[] }
  | { type: "opens"; at: EpochS; stationId: string; withIds?: string[] }
  | { type: "sample"; at: EpochS; stationId: string | null; readingLpm: number; settling: boolean }
  | { type: "result"; at: EpochS; result: LearnResult }
  | { type: "set"; at: EpochS; result: SetResult };
export type LearnOptions = {
  /** Local date of the bench. */
  date: string;
  /** Local hour at which it begins. @default "00:00" */
  from?: string;
  /** Local hour past which no station is begun that could outlast it; at or before `from`: the next day. @default none */
  to?: string;
  /** Wait for hand-watering hours and scheduled runs to end. @default false */
  avoid?: boolean;
  /** Seconds of the baseline test after filling. @default 30 */
  baselineS?: number;
  /** Stations to learn. @default all */
  stationIds?: string[];
  /** Stations done before, when going on: not opened again. */
  doneIds?: string[];
  /** Seconds of the bench already gone, when going on. @default 0 */
  elapsedS?: number;
  /** Sets to learn after the stations, as they run together. */
  sets?: string[][];
  faults?: unknown;
  /** @default 1 */
  seed?: number;
  /** @default false */
  exact?: boolean;
  /** Seconds after hold-off until *unsteady*. @default 300, drip and bubblers 600, pulse sensors as long as their pulses need */
  timeLimitS?: number;
};
export type Learning = {
  baseline: Baseline[];
  results: LearnResult[];
  refused: { stationId: string; reasons: RefusalReason[] }[];
  seconds: number;
  litres: number;
  sets?: SetResult[];
  left?: string[];
};

export const BASELINE_S = 30;
const TIME_LIMIT_S = 300;
const SLOW_TIME_LIMIT_S = 600;
const LONGEST_WAIT_S = 3600;
/** A main left shut for so long has drained a little and is filled again. */
const DRAINS_AFTER_S = 1800;

/** Seconds after hold-off until a station is *unsteady* (handbook 7): drip and bubblers settle slowly, a pulse sensor needs its pulses. */
export function timeLimitS(station: Station, litresPerPulse: number | null): number {
  const usual = station.emitter === "drip" || station.emitter === "bubbler" ? SLOW_TIME_LIMIT_S : TIME_LIMIT_S;
  const flow = expectedFlow(station)?.lpm;
  return litresPerPulse === null || flow === undefined || flow <= 0
    ? usual
    : Math.min(LONGEST_WAIT_S, Math.max(usual, pulseWaitS(litresPerPulse, flow)));
}

/**
 * Learning on the bench, event by event, so that a caller can show it live or stop it: a baseline test of every connected
 * system, then one station at a time with nothing else running, main by main so that each is filled once; then the sets asked for.
 * Throws nothing; faults must be resolved before.
 */
export function* learning(
  site: SiteFile,
  options: LearnOptions & { faults?: never },
  plant: Plant,
  w: Waterworks,
): Generator<LearnEvent, { seconds: number; litres: number }> {
  const zone = site.site.timeZone;
  const begin = instantOf(zone, options.date, options.from ?? "00:00");
  const end =
    options.to === undefined
      ? Number.POSITIVE_INFINITY
      : instantOf(zone, options.to <= (options.from ?? "00:00") ? addDays(options.date, 1) : options.date, options.to);
  const measuring = new Measuring(w, plant, begin + (options.elapsedS ?? 0));
  const refused = refusals(site, options.stationIds);
  const refusedIds = new Set(refused.map((r) => r.stationId));
  const skip = new Set(options.doneIds ?? []);
  for (const r of refused) yield { type: "refused", ...r };
  const wanted = new Set(options.stationIds ?? site.stations.map((s) => s.id));
  const learned = new Map<string, number>();
  const flowOf = (i: number): number =>
    learned.get(site.stations[i]?.id as string) ?? expectedFlow(site.stations[i] as Station)?.lpm ?? 0;

  for (const system of judgedSystems(w)) {
    const inSystem = (i: number): boolean => w.systemOfMainline[w.stationMainline[i] as number] === system.index;
    const candidates = learningOrder(w).filter((i) => {
      const id = site.stations[i]?.id as string;
      return wanted.has(id) && !refusedIds.has(id) && !skip.has(id) && inSystem(i);
    });
    const sets = (options.sets ?? []).flatMap((ids) => {
      const places = ids.map((id) => w.stationIndex.get(id));
      return places.every((p): p is number => p !== undefined && inSystem(p)) && ids.length > 1 ? [places] : [];
    });
    if (candidates.length === 0 && sets.length === 0) continue;
    const { limitLpm, minimumLpm, blind } = baselineSight(w, system.pocs);
    const holdOffS = systemHoldOffS(w, system, []);
    const fillS = options.exact ? 0 : systemFillS(w, system);
    const busy = options.avoid ? busyHours(w, system, options.date) : [];
    const limitOf = (i: number): number =>
      options.timeLimitS ??
      timeLimitS(
        site.stations[i] as Station,
        Math.max(0, ...tapsOf(w, system.pocs, w.stationMainline[i] as number).map((t) => t.litresPerPulse ?? 0)) ||
          null,
      );
    let refill = 0;
    /** Waits for what is in the way of the next `needS` seconds; false when the window's end comes first. */
    const clear = function* (needS: number): Generator<LearnEvent, boolean> {
      for (;;) {
        const block = busy.find((b) => b.from < measuring.now + needS && b.to > measuring.now);
        if (!block) break;
        yield { type: "waits", at: measuring.now, until: block.to, why: block.why };
        if (block.to - measuring.now >= DRAINS_AFTER_S) refill = fillS;
        measuring.now = block.to;
      }
      return measuring.now + needS <= end;
    };
    const leave = (from: number): LearnEvent => ({
      type: "left",
      at: measuring.now,
      stationIds: candidates.slice(from).map((i) => site.stations[i]?.id as string),
    });

    const restS = options.baselineS ?? BASELINE_S;
    if (!(yield* clear(Math.max(fillS, holdOffS) + restS))) {
      yield leave(0);
      continue;
    }
    const atPocs = yield* measuring.rest(system.pocs, Math.max(fillS, holdOffS), restS);
    const measuredLpm = atPocs.reduce((a, b) => a + b, 0);
    // A leak over several POCs may stay under the sum of their minima and still be over the minimum of one.
    const flowing =
      (measuredLpm > 1e-9 && measuredLpm >= limitLpm) ||
      atPocs.some((lpm, n) => lpm > 1e-9 && (minimumLpm[n] as number) > 0 && lpm >= (minimumLpm[n] as number));
    yield {
      type: "baseline",
      at: measuring.now,
      baseline: {
        pocIds: system.pocs.map((p) => site.pocs[p]?.id as string),
        mainlineIds: system.mainlines.map((m) => site.mainlines[m]?.id as string),
        measuredLpm,
        limitLpm,
        flowing,
        ...(blind ? { blind } : {}),
      },
    };
    if (flowing) {
      for (const i of candidates)
        yield { type: "refused", stationId: site.stations[i]?.id as string, reasons: ["flowAtRest"] };
      continue;
    }

    let leftFrom: number | null = null;
    for (const [n, i] of candidates.entries()) {
      const station = site.stations[i] as Station;
      const flow = expectedFlow(station)?.lpm;
      const company =
        station.usesPump !== false && flow !== undefined && flow < pumpMinimumLpm(w, i) ? companionsFor(w, i) : null;
      const settleS = Math.max(
        holdOffS,
        station.holdOffS ?? 0,
        ...(company ?? []).map((c) => site.stations[c]?.holdOffS ?? 0),
      );
      if (!(yield* clear((company ? 2 : 1) * (settleS + refill + limitOf(i))))) {
        leftFrom = n;
        break;
      }
      const names = company?.map((c) => site.stations[c]?.id as string);
      yield { type: "opens", at: measuring.now, stationId: station.id, ...(names ? { withIds: names } : {}) };
      const read = {
        pocs: system.pocs,
        main: w.stationMainline[i] as number,
        pump: station.usesPump !== false,
        limitS: limitOf(i),
        stationId: station.id,
      };
      const beside = company ? yield* measuring.flow(company, { ...read, settleS: settleS + refill }) : null;
      const seen = yield* measuring.flow([...(company ?? []), i], {
        ...read,
        settleS: settleS + (company ? 0 : refill),
      });
      refill = 0;
      const result: LearnResult = {
        stationId: station.id,
        ...verdictOf(w, i, company && beside ? difference(seen, beside) : seen, limitLpm, company !== null),
        ...(names ? { companionIds: names } : {}),
      };
      if (result.verdict === "accepted") learned.set(station.id, result.meanLpm);
      yield { type: "result", at: measuring.now, result };
    }
    if (leftFrom !== null) {
      yield leave(leftFrom);
      continue;
    }
    for (const places of sets) {
      const settleS = Math.max(holdOffS, ...places.map((i) => site.stations[i]?.holdOffS ?? 0));
      const limitS = Math.max(...places.map(limitOf));
      if (!(yield* clear(settleS + refill + limitS))) break;
      const ids = places.map((i) => site.stations[i]?.id as string);
      yield { type: "opens", at: measuring.now, stationId: ids[0] as string, withIds: ids.slice(1) };
      const seen = yield* measuring.flow(places, {
        pocs: system.pocs,
        main: null,
        pump: places.some((i) => site.stations[i]?.usesPump !== false),
        limitS,
        settleS: settleS + refill,
        stationId: ids[0] as string,
      });
      refill = 0;
      const partsLpm = places.reduce((sum, i) => sum + flowOf(i), 0);
      const verdict: Verdict =
        seen.meanLpm < Math.max(limitLpm, 1e-6) ? "noFlow" : seen.steadyAt === null ? "unsteady" : "accepted";
      yield {
        type: "set",
        at: measuring.now,
        result: {
          stationIds: ids,
          verdict,
          meanLpm: seen.meanLpm,
          sdLpm: seen.sdLpm,
          samples: seen.samples,
          secondsToSteady: seen.steadyAt,
          partsLpm,
          ratio: partsLpm > 0 ? seen.meanLpm / partsLpm : 1,
        },
      };
    }
  }
  return { seconds: measuring.now - begin, litres: measuring.litres };
}

/** Both less the companion alone: the spreads add as squares, so such a figure carries the larger uncertainty. */
function difference(both: Measured, alone: Measured): Measured {
  return {
    meanLpm: Math.max(0, both.meanLpm - alone.meanLpm),
    sdLpm: Math.hypot(both.sdLpm, alone.sdLpm),
    samples: Math.min(both.samples, alone.samples),
    steadyAt: both.steadyAt === null || alone.steadyAt === null ? null : both.steadyAt + alone.steadyAt,
  };
}

function verdictOf(
  w: Waterworks,
  station: number,
  seen: Measured,
  limitLpm: number,
  byDifference: boolean,
): Omit<LearnResult, "stationId"> {
  const main = w.stationMainline[station] as number;
  const ceiling = Math.min(
    ...(w.mainsAbove[main] ?? []).map((m) => w.mainlineCeiling[m] as number),
    (w.pocsAbove[main] ?? []).reduce((sum, p) => sum + (w.pocCeiling[p] as number), 0),
  );
  // A difference may be under the sensor's minimum and still be seen, but not under its own spread.
  const unseen = byDifference ? seen.meanLpm <= seen.sdLpm : seen.meanLpm < Math.max(limitLpm, 1e-6);
  const verdict: Verdict = unseen
    ? "noFlow"
    : seen.steadyAt === null
      ? "unsteady"
      : seen.meanLpm > ceiling + 1e-6
        ? "overCeiling"
        : "accepted";
  return { verdict, meanLpm: seen.meanLpm, sdLpm: seen.sdLpm, samples: seen.samples, secondsToSteady: seen.steadyAt };
}

/** Ready to iterate, or the problem with the faults asked for. */
export function beginLearning(
  site: SiteFile,
  options: LearnOptions,
): { ok: true; events: ReturnType<typeof learning> } | { ok: false; problem: FileProblem } {
  const w = waterworks(site);
  const unknown = [...(options.stationIds ?? []), ...(options.sets ?? []).flat()].find((id) => !w.stationIndex.has(id));
  if (unknown !== undefined)
    return {
      ok: false,
      problem: {
        code: "unknownReference",
        path: "--stations",
        message: `There is no station "${unknown}" on this site.`,
      },
    };
  const begin = instantOf(site.site.timeZone, options.date, options.from ?? "00:00");
  const resolved = resolveFaults(site, options.faults ?? [], options.date, begin);
  if (!resolved.ok) return resolved;
  const { faults: _, ...rest } = options;
  const calendar = new CapacityCalendar(
    { ...w, site: { ...site, sources: site.sources.map((s) => ({ ...s, hours: undefined })) } },
    options.date,
  );
  const plant = new Plant(w, calendar, resolved.faults, randomFrom(options.seed ?? 1), options.exact ?? false);
  return { ok: true, events: learning(site, rest, plant, w) };
}

/** Learning to its end (site-file `learn`). */
export function learn(
  site: SiteFile,
  options: LearnOptions,
): { ok: true; result: Learning } | { ok: false; problem: FileProblem } {
  const begun = beginLearning(site, options);
  return begun.ok ? { ok: true, result: gathered(begun.events) } : begun;
}

/** Everything that a run of learning tells, put together. */
export function gathered(events: ReturnType<typeof learning>): Learning {
  const result: Learning = { baseline: [], results: [], refused: [], seconds: 0, litres: 0 };
  for (;;) {
    const next = events.next();
    if (next.done) return { ...result, ...next.value };
    const event = next.value;
    if (event.type === "baseline") result.baseline.push(event.baseline);
    if (event.type === "refused") result.refused.push({ stationId: event.stationId, reasons: event.reasons });
    if (event.type === "result") result.results.push(event.result);
    if (event.type === "set") result.sets = [...(result.sets ?? []), event.result];
    if (event.type === "left") result.left = [...(result.left ?? []), ...event.stationIds];
  }
}
