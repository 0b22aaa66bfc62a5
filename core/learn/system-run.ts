import { nth } from "../checked.ts";
import { type EpochS, addDays, instantOf } from "../dates/wall-time.ts";
import { fillS, holdOffS, type JudgedSystem } from "../judge/system.ts";
import { ceilingAbove, type Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Station } from "../site-file/schema.ts";
import { baselineSight } from "./baseline.ts";
import { busyHours } from "./busy-hours.ts";
import { companionsFor, pumpMinimumLpm } from "./companions.ts";
import type { LearnEvent, LearnOptions, LearnResult, Verdict } from "./events.ts";
import { type Measured, type Measuring, tapsOf } from "./measuring.ts";
import { learningOrder } from "./order.ts";
import { pulseWaitS } from "./steady.ts";

export const BASELINE_S = 30;
const TIME_LIMIT_S = 300;
const SLOW_TIME_LIMIT_S = 600;
const LONGEST_WAIT_S = 3600;
/** A main left shut for so long has drained a little and is filled again. */
const DRAINS_AFTER_S = 1800;

/** Seconds after hold-off until a station is *unsteady* (handbook#7-learning): drip and bubblers settle slowly, a pulse sensor needs its pulses. */
export function timeLimitS(station: Station, litresPerPulse: number | null): number {
  const usual = station.emitter === "drip" || station.emitter === "bubbler" ? SLOW_TIME_LIMIT_S : TIME_LIMIT_S;
  const flow = expectedFlow(station)?.lpm;
  return litresPerPulse === null || flow === undefined || flow <= 0
    ? usual
    : Math.min(LONGEST_WAIT_S, Math.max(usual, pulseWaitS(litresPerPulse, flow)));
}

/** Learning of one connected system: its baseline test, its stations one at a time, its sets. Told event by event. */
export class SystemRun {
  /** Stations to learn, places in the file, main by main. */
  readonly candidates: number[];
  readonly sets: number[][];
  private readonly w: Waterworks;
  private readonly system: JudgedSystem;
  private readonly options: LearnOptions;
  private readonly measuring: Measuring;
  private readonly end: EpochS;
  private readonly holdOffS: number;
  private readonly fillS: number;
  private readonly sight: ReturnType<typeof baselineSight>;
  private readonly busy: ReturnType<typeof busyHours>;
  /** What was accepted so far, by station id, L/min; shared by all systems. */
  private readonly learned: Map<string, number>;
  /** Seconds of filling that the next opening needs, after the main stood shut for long. */
  private refillS = 0;

  constructor(
    w: Waterworks,
    system: JudgedSystem,
    options: LearnOptions,
    measuring: Measuring,
    learned: Map<string, number>,
    wanted: (stationId: string) => boolean,
  ) {
    this.w = w;
    this.system = system;
    this.options = options;
    this.measuring = measuring;
    this.learned = learned;
    this.end = endOf(w, options);
    const mine = (i: number): boolean => w.systemOfMainline[nth(w.stationMainline, i)] === system.index;
    this.candidates = learningOrder(w).filter((i) => mine(i) && wanted(this.idOf(i)));
    this.sets = (options.sets ?? []).flatMap((ids) => {
      const places = ids.map((id) => w.stationIndex.get(id));
      return places.every((p): p is number => p !== undefined && mine(p)) && ids.length > 1 ? [places] : [];
    });
    this.sight = baselineSight(w, system.pocs);
    this.holdOffS = holdOffS(w, system, []);
    this.fillS = options.exact ? 0 : fillS(w, system);
    this.busy = options.avoid ? busyHours(w, system, options.date) : [];
  }

  /** All of it, as far as the window allows. */
  *all(): Generator<LearnEvent, void> {
    const tight = yield* this.baseline();
    if (!tight) return;
    for (const [n, i] of this.candidates.entries())
      if (!(yield* this.station(i))) {
        yield this.left(n);
        return;
      }
    for (const places of this.sets) if (!(yield* this.set(places))) return;
  }

  private idOf(i: number): string {
    return nth(this.w.site.stations, i).id;
  }

  private left(from: number): LearnEvent {
    return { type: "left", at: this.measuring.now, stationIds: this.candidates.slice(from).map((i) => this.idOf(i)) };
  }

  /** Waits for what is in the way of the next `needS` seconds; false when the window's end comes first. */
  private *clear(needS: number): Generator<LearnEvent, boolean> {
    const { measuring } = this;
    for (;;) {
      const block = this.busy.find((b) => b.from < measuring.now + needS && b.to > measuring.now);
      if (!block) return measuring.now + needS <= this.end;
      yield { type: "waits", at: measuring.now, until: block.to, why: block.why };
      if (block.to - measuring.now >= DRAINS_AFTER_S) this.refillS = this.fillS;
      measuring.now = block.to;
    }
  }

  /** Everything shut: is there flow? False where nothing can be learned here now. */
  private *baseline(): Generator<LearnEvent, boolean> {
    const { measuring, system, w } = this;
    const { limitLpm, minimumLpm, blind } = this.sight;
    const restS = this.options.baselineS ?? BASELINE_S;
    const settleS = Math.max(this.fillS, this.holdOffS);
    if (!(yield* this.clear(settleS + restS))) {
      yield this.left(0);
      return false;
    }
    const atPocs = yield* measuring.rest(system.pocs, settleS, restS);
    const measuredLpm = atPocs.reduce((a, b) => a + b, 0);
    // A leak over several POCs may stay under the sum of their minima and still be over the minimum of one.
    const overOne = (lpm: number, n: number): boolean => {
      const minimum = minimumLpm[n] ?? 0;
      return lpm > 1e-9 && minimum > 0 && lpm >= minimum;
    };
    const flowing = (measuredLpm > 1e-9 && measuredLpm >= limitLpm) || atPocs.some(overOne);
    yield {
      type: "baseline",
      at: measuring.now,
      baseline: {
        pocIds: system.pocs.map((p) => nth(w.site.pocs, p).id),
        mainlineIds: system.mainlines.map((m) => nth(w.site.mainlines, m).id),
        measuredLpm,
        limitLpm,
        flowing,
        ...(blind ? { blind } : {}),
      },
    };
    if (flowing)
      for (const i of this.candidates) yield { type: "refused", stationId: this.idOf(i), reasons: ["flowAtRest"] };
    return !flowing;
  }

  /** One station alone, or with a companion where the pump needs one; false when the window ends before. */
  private *station(i: number): Generator<LearnEvent, boolean> {
    const { w, measuring, system } = this;
    const station = nth(w.site.stations, i);
    const flow = expectedFlow(station)?.lpm;
    const underMinimum = station.usesPump !== false && flow !== undefined && flow < pumpMinimumLpm(w, i);
    const company = underMinimum ? companionsFor(w, i) : null;
    const settleS = this.settleS([i, ...(company ?? [])]);
    const limitS = this.limitS(i);
    if (!(yield* this.clear((company ? 2 : 1) * (settleS + this.refillS + limitS)))) return false;
    const names = company?.map((c) => this.idOf(c));
    yield { type: "opens", at: measuring.now, stationId: station.id, ...(names ? { withIds: names } : {}) };
    const read = {
      pocs: system.pocs,
      main: nth(w.stationMainline, i),
      pump: station.usesPump !== false,
      limitS,
      stationId: station.id,
    };
    const beside = company ? yield* measuring.flow(company, { ...read, settleS: settleS + this.refillS }) : null;
    const refillS = company ? 0 : this.refillS;
    const seen = yield* measuring.flow([...(company ?? []), i], { ...read, settleS: settleS + refillS });
    this.refillS = 0;
    const own = beside ? difference(seen, beside) : seen;
    const result: LearnResult = {
      stationId: station.id,
      ...verdictOf(w, i, own, this.sight.limitLpm, company !== null),
      ...(names ? { companionIds: names } : {}),
    };
    if (result.verdict === "accepted") this.learned.set(station.id, result.meanLpm);
    yield { type: "result", at: measuring.now, result };
    return true;
  }

  /** Several as they run together; false when the window ends before. */
  private *set(places: number[]): Generator<LearnEvent, boolean> {
    const { w, measuring, system } = this;
    const settleS = this.settleS(places);
    const limitS = Math.max(...places.map((i) => this.limitS(i)));
    if (!(yield* this.clear(settleS + this.refillS + limitS))) return false;
    const stationIds = places.map((i) => this.idOf(i));
    const [stationId, ...withIds] = stationIds as [string, ...string[]];
    yield { type: "opens", at: measuring.now, stationId, withIds };
    const seen = yield* measuring.flow(places, {
      pocs: system.pocs,
      main: null,
      pump: places.some((i) => w.site.stations[i]?.usesPump !== false),
      limitS,
      settleS: settleS + this.refillS,
      stationId,
    });
    this.refillS = 0;
    const partsLpm = places.reduce((sum, i) => sum + this.flowOf(i), 0);
    const unseen = seen.meanLpm < Math.max(this.sight.limitLpm, 1e-6);
    yield {
      type: "set",
      at: measuring.now,
      result: {
        stationIds,
        verdict: verdictFor(unseen, seen, Number.POSITIVE_INFINITY),
        meanLpm: seen.meanLpm,
        sdLpm: seen.sdLpm,
        samples: seen.samples,
        secondsToSteady: seen.steadyAt,
        partsLpm,
        ratio: partsLpm > 0 ? seen.meanLpm / partsLpm : 1,
      },
    };
    return true;
  }

  private flowOf(i: number): number {
    return this.learned.get(this.idOf(i)) ?? expectedFlow(nth(this.w.site.stations, i))?.lpm ?? 0;
  }

  private settleS(places: number[]): number {
    return Math.max(this.holdOffS, ...places.map((i) => this.w.site.stations[i]?.holdOffS ?? 0));
  }

  private limitS(i: number): number {
    if (this.options.timeLimitS !== undefined) return this.options.timeLimitS;
    const taps = tapsOf(this.w, this.system.pocs, nth(this.w.stationMainline, i));
    const litresPerPulse = Math.max(0, ...taps.map((t) => t.litresPerPulse ?? 0));
    return timeLimitS(nth(this.w.site.stations, i), litresPerPulse || null);
  }
}

/** When the window of learning closes; Infinity without one. */
function endOf(w: Waterworks, options: LearnOptions): EpochS {
  if (options.endAt !== undefined) return options.endAt;
  if (options.to === undefined) return Number.POSITIVE_INFINITY;
  const date = options.to <= (options.from ?? "00:00") ? addDays(options.date, 1) : options.date;
  return instantOf(w.site.site.timeZone, date, options.to);
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
  const main = nth(w.stationMainline, station);
  const ceiling = ceilingAbove(w, main);
  // A difference may be under the sensor's minimum and still be seen, but not under its own spread.
  const unseen = byDifference ? seen.meanLpm <= seen.sdLpm : seen.meanLpm < Math.max(limitLpm, 1e-6);
  const verdict = verdictFor(unseen, seen, ceiling);
  return { verdict, meanLpm: seen.meanLpm, sdLpm: seen.sdLpm, samples: seen.samples, secondsToSteady: seen.steadyAt };
}

function verdictFor(unseen: boolean, seen: Measured, ceilingLpm: number): Verdict {
  if (unseen) return "noFlow";
  if (seen.steadyAt === null) return "unsteady";
  return seen.meanLpm > ceilingLpm + 1e-6 ? "overCeiling" : "accepted";
}
