import { type Fault, resolveFaults } from "../core/bench/faults/resolve.ts";
import { type Commands, Plant, type PlantSecond } from "../core/bench/plant.ts";
import { randomFrom } from "../core/bench/random.ts";
import type { EpochS } from "../core/dates/wall-time.ts";
import { instantOf } from "../core/dates/wall-time.ts";
import { CapacityCalendar } from "../core/dispatch/capacity.ts";
import type { Learning, LearnEvent, LearnOptions } from "../core/learn/events.ts";
import { gathered, learning } from "../core/learn/learn.ts";
import { waterworks } from "../core/network/waterworks.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/** A plant that remembers what really flowed through each station in the last 30 seconds it ran alone. */
class WatchedPlant extends Plant {
  readonly flowed = new Map<number, number[]>();
  override second(t: EpochS, commands: Commands): PlantSecond {
    const seen = super.second(t, commands);
    if (commands.stations.size === 1)
      for (const s of commands.stations)
        this.flowed.set(
          s,
          [
            ...(this.flowed.get(s) ?? []),
            [...seen.stationLpm].reduce((sum, [at, lpm]) => sum + (at === s || commands.stations.has(at) ? lpm : 0), 0),
          ].slice(-30),
        );
    return seen;
  }
}

/**
 * Learns a site as someone believes it to be on the plant of the site as it is.
 *
 * @returns what was learned, and what really flowed while each station was read, L/min
 */
export function learnTruth(
  believed: SiteFile,
  truth: SiteFile,
  options: LearnOptions,
): { learned: Learning; flowed: Map<string, number> } {
  const begin = instantOf(truth.site.timeZone, options.date, options.from ?? "00:00");
  const resolved = resolveFaults(truth, options.faults ?? [], options.date, begin);
  if (!resolved.ok) throw new Error(resolved.problem.message);
  const faults: Fault[] = resolved.faults;
  const real = waterworks(truth);
  const plant = new WatchedPlant(
    real,
    new CapacityCalendar(real, options.date),
    faults,
    randomFrom(options.seed ?? 1),
    options.exact ?? false,
  );
  const { faults: _, ...rest } = options;
  const flowed = new Map<string, number>();
  const events = learning(believed, rest, plant, waterworks(believed));
  const noting = (function* (): ReturnType<typeof learning> {
    for (;;) {
      const next: IteratorResult<LearnEvent, { seconds: number; litres: number }> = events.next();
      if (next.done) return next.value;
      if (next.value.type === "result") {
        const list = plant.flowed.get(real.stationIndex.get(next.value.result.stationId) as number) ?? [];
        if (list.length > 0) flowed.set(next.value.result.stationId, list.reduce((a, b) => a + b, 0) / list.length);
      }
      yield next.value;
    }
  })();
  return { learned: gathered(noting), flowed };
}
