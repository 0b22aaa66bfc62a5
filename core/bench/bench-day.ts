import { addDays, type EpochS, instantOf } from "../dates/wall-time.ts";
import { BenchNight } from "./bench-night.ts";
import { withInherited } from "../judge/policy-of.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { FileProblem } from "../site-file/parse-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { BenchController } from "./controller.ts";
import { resolveFaults } from "./faults/resolve.ts";
import { Plant } from "./plant.ts";
import { randomFrom } from "./random.ts";

export type BenchDayOptions = {
  date: string;
  /** As in faults.json. @default [] */
  faults?: unknown;
  /** @default 1 */
  seed?: number;
  /** What stands in the ground, where it is not what the controller is set to: the same elements in the same order. @default the site */
  ground?: SiteFile;
  /** Plain arithmetic: no noise, full mains, expected flows. @default false */
  exact?: boolean;
};
/** One day of a site on the bench, put up before its first second: the plant and the controller, to be driven in turns once the controller has begun. */
export type BenchDay = {
  site: SiteFile;
  w: Waterworks;
  zone: string;
  night: BenchNight;
  plant: Plant;
  controller: BenchController;
  begin: EpochS;
  midnight: EpochS;
  exact: boolean;
};

/** Puts a day of a site on the bench, from 00:00 of the date. */
export function beginBenchDay(
  asked: SiteFile,
  options: BenchDayOptions,
): { ok: true; day: BenchDay } | { ok: false; problem: FileProblem } {
  const site = withInherited(asked);
  const w = waterworks(site);
  const { date } = options;
  const zone = site.site.timeZone;
  const night = new BenchNight(w, date);
  const begin = instantOf(zone, date, "00:00");
  const resolved = resolveFaults(site, options.faults ?? [], date, night.starts[0]?.at ?? begin);
  if (!resolved.ok) return resolved;
  const exact = options.exact ?? false;
  const inGround = options.ground ? waterworks(withInherited(options.ground)) : w;
  const plant = new Plant(inGround, night.capacity, resolved.faults, randomFrom(options.seed ?? 1), exact);
  const controller = new BenchController(w, night, exact);
  return {
    ok: true,
    day: {
      site,
      w,
      zone,
      night,
      plant,
      controller,
      begin,
      midnight: instantOf(zone, addDays(date, 1), "00:00"),
      exact,
    },
  };
}
