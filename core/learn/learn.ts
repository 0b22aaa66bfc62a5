import { resolveFaults } from "../bench/faults.ts";
import { type Commands, Plant, type PlantSecond } from "../bench/plant.ts";
import { randomFrom } from "../bench/random.ts";
import { systemStates } from "../bench/system.ts";
import { type EpochS, instantOf } from "../calendar/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { FileProblem } from "../site-file/parse-site.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { isSteady, USUAL_STEADY, windowStatistics } from "./steady.ts";

export type RefusalReason = "noRunTime" | "noSensor" | "lockedOut" | "excluded" | "flowAtRest" | "belowPumpMinimum" | "noSupply";
export type Verdict = "accepted" | "unsteady" | "noFlow" | "overCeiling" | "stopped";
export type LearnResult = { stationId: string; verdict: Verdict; meanLpm: number; sdLpm: number; samples: number; secondsToSteady: number | null };
export type Baseline = { pocIds: string[]; mainlineIds: string[]; measuredLpm: number; limitLpm: number; flowing: boolean };
export type LearnEvent =
  | { type: "baseline"; at: EpochS; baseline: Baseline }
  | { type: "refused"; stationId: string; reasons: RefusalReason[] }
  | { type: "opens"; at: EpochS; stationId: string }
  | { type: "sample"; at: EpochS; stationId: string | null; readingLpm: number; settling: boolean }
  | { type: "result"; at: EpochS; result: LearnResult };
export type LearnOptions = {
  /** Local date of the bench; learning begins at 00:00, a quiet hour. */
  date: string;
  /** Stations to learn. @default all */
  stationIds?: string[];
  faults?: unknown;
  /** @default 1 */
  seed?: number;
  /** @default false */
  exact?: boolean;
  /** Seconds after hold-off until *unsteady*. @default 300, drip 600 */
  timeLimitS?: number;
};
export type Learning = {
  baseline: Baseline[];
  results: LearnResult[];
  refused: { stationId: string; reasons: RefusalReason[] }[];
  seconds: number;
  litres: number;
};

const BASELINE_S = 30;
const TIME_LIMIT_S = 300;
const DRIP_TIME_LIMIT_S = 600;

/** Which stations cannot be learned, and every reason why; nothing is skipped silently (handbook 7). */
export function refusals(site: SiteFile, stationIds?: string[]): { stationId: string; reasons: RefusalReason[] }[] {
  const w = waterworks(site);
  const minutes = new Map<string, number>();
  for (const p of site.programs) for (const r of p.runs) minutes.set(r.stationId, (minutes.get(r.stationId) ?? 0) + r.minutes);
  return site.stations.flatMap((s, i) => {
    if (stationIds && !stationIds.includes(s.id)) return [];
    const reasons: RefusalReason[] = [];
    if (!((minutes.get(s.id) ?? 0) > 0)) reasons.push("noRunTime");
    const m = w.stationMainline[i] as number;
    const pocs = w.pocsAbove[m] ?? [];
    if (pocs.length === 0 || !pocs.some((p) => (w.pocSources[p] ?? []).length > 0)) reasons.push("noSupply");
    else if (!pocs.every((p) => measured(w, p)) && ownSensor(w, m) === null) reasons.push("noSensor");
    if (s.lockedOut || site.mainlines[m]?.lockedOut || pocs.every((p) => site.pocs[p]?.lockedOut)) reasons.push("lockedOut");
    if (s.monitored === false) reasons.push("excluded");
    const minimum = Math.max(0, ...pocs.flatMap((p) => (site.pocs[p]?.devices ?? []).map((d) => (d.kind === "pump" ? (d.minFlowLpm ?? 0) : 0))));
    const flow = expectedFlow(s)?.lpm;
    if (s.usesPump !== false && flow !== undefined && flow < minimum) reasons.push("belowPumpMinimum");
    return reasons.length > 0 ? [{ stationId: s.id, reasons }] : [];
  });
}

function measured(w: Waterworks, poc: number): boolean {
  return ["own", "mainlines"].includes(pocSensing(w, poc).by);
}

function ownSensor(w: Waterworks, mainline: number): number | null {
  return (w.mainsAbove[mainline] ?? []).find((m) => w.site.mainlines[m]?.devices?.some((d) => d.kind === "flowSensor")) ?? null;
}

/**
 * Learning on the bench, event by event, so that a caller can show it live or stop it: a baseline test of every connected
 * system, then one station at a time with nothing else running. Throws nothing; faults must be resolved before.
 */
export function* learning(site: SiteFile, options: LearnOptions & { faults?: never }, plant: Plant, w: Waterworks): Generator<LearnEvent, { seconds: number; litres: number }> {
  const begin = instantOf(site.site.timeZone, options.date, "00:00");
  let t = begin;
  let litres = 0;
  const refused = refusals(site, options.stationIds);
  const refusedIds = new Set(refused.map((r) => r.stationId));
  for (const r of refused) yield { type: "refused", ...r };

  const second = (stations: number[], system: { pocs: number[] }, pump: boolean): PlantSecond => {
    const commands: Commands = {
      stations: new Set(stations),
      pocValve: site.pocs.map((_, p) => system.pocs.includes(p)), mainlineValve: site.mainlines.map(() => true),
      pump: site.pocs.map((_, p) => pump && system.pocs.includes(p)),
    };
    const seen = plant.second(t, commands);
    t++;
    litres += seen.pocLpm.reduce((a, b) => a + b, 0) / 60;
    return seen;
  };

  for (const system of systemStates(w)) {
    const candidates = site.stations.flatMap((s, i) => {
      const wanted = !options.stationIds || options.stationIds.includes(s.id);
      return wanted && !refusedIds.has(s.id) && w.systemOfMainline[w.stationMainline[i] as number] === system.index ? [i] : [];
    });
    if (candidates.length === 0) continue;
    const sensors = system.pocs.flatMap((p) => pocSensing(w, p).sensors);
    const limitLpm = sensors.reduce((sum, s) => sum + (sensorRange(s).minLpm ?? 0), 0);
    const holdOffS = Math.max(0, ...system.mainlines.map((m) => site.mainlines[m]?.holdOffS ?? 60));
    const fillS = options.exact ? 0 : Math.max(0, ...system.mainlines.map((m) => site.mainlines[m]?.fillS ?? 120));

    const rest: number[] = [];
    for (let i = 0; i < Math.max(fillS, holdOffS) + BASELINE_S; i++) {
      const reading = total(second([], system, false));
      if (i >= Math.max(fillS, holdOffS)) rest.push(reading);
      yield { type: "sample", at: t, stationId: null, readingLpm: reading, settling: i < Math.max(fillS, holdOffS) };
    }
    const measuredLpm = rest.reduce((a, b) => a + b, 0) / rest.length;
    const flowing = measuredLpm > 1e-9 && measuredLpm >= limitLpm;
    yield {
      type: "baseline", at: t,
      baseline: { pocIds: system.pocs.map((p) => site.pocs[p]?.id as string), mainlineIds: system.mainlines.map((m) => site.mainlines[m]?.id as string), measuredLpm, limitLpm, flowing },
    };
    if (flowing) {
      for (const i of candidates) {
        yield { type: "refused", stationId: site.stations[i]?.id as string, reasons: ["flowAtRest"] };
      }
      continue;
    }
    for (const i of candidates) {
      const station = site.stations[i] as Station;
      const settleS = Math.max(holdOffS, station.holdOffS ?? 0);
      const limitS = options.timeLimitS ?? (station.emitter === "drip" ? DRIP_TIME_LIMIT_S : TIME_LIMIT_S);
      const own = ownSensor(w, w.stationMainline[i] as number);
      const useOwn = sensors.length < system.pocs.length && own !== null;
      yield { type: "opens", at: t, stationId: station.id };
      const samples: number[] = [];
      let steadyAt: number | null = null;
      for (let s = 0; s < settleS + limitS && steadyAt === null; s++) {
        const seen = second([i], system, station.usesPump !== false);
        const reading = useOwn ? (seen.mainlineReading[own as number] ?? 0) : total(seen);
        const settling = s < settleS;
        yield { type: "sample", at: t, stationId: station.id, readingLpm: reading, settling };
        if (settling) continue;
        samples.push(reading);
        if (samples.length > USUAL_STEADY.windowS) samples.shift();
        if (samples.length === USUAL_STEADY.windowS && isSteady(windowStatistics(samples))) steadyAt = s + 1;
      }
      const statistics = windowStatistics(samples.length > 0 ? samples : [0]);
      const ceiling = Math.min(...(w.mainsAbove[w.stationMainline[i] as number] ?? []).map((m) => w.mainlineCeiling[m] as number), (w.pocsAbove[w.stationMainline[i] as number] ?? []).reduce((sum, p) => sum + (w.pocCeiling[p] as number), 0));
      const verdict: Verdict = statistics.meanLpm < Math.max(limitLpm, 1e-6) ? "noFlow" : steadyAt === null ? "unsteady" : statistics.meanLpm > ceiling + 1e-6 ? "overCeiling" : "accepted";
      yield { type: "result", at: t, result: { stationId: station.id, verdict, meanLpm: statistics.meanLpm, sdLpm: statistics.sdLpm, samples: samples.length, secondsToSteady: steadyAt } };
    }
  }
  return { seconds: t - begin, litres };
}

const total = (seen: PlantSecond): number => seen.pocReading.reduce((sum: number, r) => sum + (r ?? 0), 0);

/** Ready to iterate, or the problem with the faults asked for. */
export function beginLearning(site: SiteFile, options: LearnOptions): { ok: true; events: ReturnType<typeof learning> } | { ok: false; problem: FileProblem } {
  const w = waterworks(site);
  const unknown = options.stationIds?.find((id) => !w.stationIndex.has(id));
  if (unknown !== undefined) return { ok: false, problem: { code: "unknownReference", path: "--stations", message: `There is no station "${unknown}" on this site.` } };
  const begin = instantOf(site.site.timeZone, options.date, "00:00");
  const resolved = resolveFaults(site, options.faults ?? [], options.date, begin);
  if (!resolved.ok) return resolved;
  const { faults: _, ...rest } = options;
  const calendar = new CapacityCalendar({ ...w, site: { ...site, sources: site.sources.map((s) => ({ ...s, hours: undefined })) } }, options.date);
  const plant = new Plant(w, calendar, resolved.faults, randomFrom(options.seed ?? 1), options.exact ?? false);
  return { ok: true, events: learning(site, rest, plant, w) };
}

/** Learning to its end (site-file `learn`). */
export function learn(site: SiteFile, options: LearnOptions): { ok: true; result: Learning } | { ok: false; problem: FileProblem } {
  const begun = beginLearning(site, options);
  if (!begun.ok) return begun;
  const result: Learning = { baseline: [], results: [], refused: [], seconds: 0, litres: 0 };
  for (;;) {
    const next = begun.events.next();
    if (next.done) return { ok: true, result: { ...result, ...next.value } };
    const event = next.value;
    if (event.type === "baseline") result.baseline.push(event.baseline);
    if (event.type === "refused") result.refused.push({ stationId: event.stationId, reasons: event.reasons });
    if (event.type === "result") result.results.push(event.result);
  }
}
