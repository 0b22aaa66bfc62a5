import { resolveFaults } from "../bench/faults/resolve.ts";
import { Plant } from "../bench/plant.ts";
import { randomFrom } from "../bench/random.ts";
import { type EpochS, instantOf } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { judgedSystems } from "../judge/system.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { FileProblem } from "../site-file/parse-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { LearnEvent, Learning, LearnOptions } from "./events.ts";
import { Measuring } from "./measuring.ts";
import { refusals } from "./refusals.ts";
import { SystemRun } from "./system-run.ts";

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
  const begin = instantOf(site.site.timeZone, options.date, options.from ?? "00:00");
  return yield* learningBy(site, options, w, new Measuring(w, plant, begin + (options.elapsedS ?? 0)), begin);
}

/** The same by whoever opens the valves, from an instant on. */
export function* learningBy(
  site: SiteFile,
  options: LearnOptions & { faults?: never },
  w: Waterworks,
  measuring: Measuring,
  begin: EpochS,
): Generator<LearnEvent, { seconds: number; litres: number }> {
  const refused = refusals(site, options.stationIds);
  for (const r of refused) yield { type: "refused", ...r };
  const not = new Set([...refused.map((r) => r.stationId), ...(options.doneIds ?? [])]);
  const asked = options.stationIds ? new Set(options.stationIds) : null;
  const wanted = (id: string): boolean => !not.has(id) && (asked === null || asked.has(id));
  const learned = new Map<string, number>();
  for (const system of judgedSystems(w)) {
    const run = new SystemRun(w, system, options, measuring, learned, wanted);
    if (run.candidates.length > 0 || run.sets.length > 0) yield* run.all();
  }
  return { seconds: measuring.now - begin, litres: measuring.litres };
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

/** Learning to its end (site-file#commands). */
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
