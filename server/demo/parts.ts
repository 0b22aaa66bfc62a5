import { randomFrom } from "../../core/bench/random.ts";
import { WEEKDAYS } from "../../core/dates/wall-time.ts";
import { flowFromHz } from "../../core/sensors/sensor-range.ts";
import { ON_THE_SPOT, withCheck } from "../../core/site-file/device-checks.ts";
import type { Device, Pipe, Program, SiteFile, Station } from "../../core/site-file/schema.ts";

/** What the made-up sites are put together from. */
export const LEARNED_AT = "2026-05-06T03:10:00Z";
export const WATCHFUL: SiteFile["policy"] = {
  preset: "watchful",
  basis: "station",
  highPercent: 20,
  lowPercent: 25,
  persistenceS: 60,
  highResponse: "findAndIsolate",
  lowResponse: "findAndIsolate",
  closeWaitS: 30,
};

export const pipe = (
  id: string,
  nominal: string,
  lengthM: number,
  material = "PVC",
  series = "SCH40",
  name?: string,
): Pipe => ({ id, ...(name ? { name } : {}), kind: "pipe", material, series, nominal, lengthM });
export const meter = (id: string, continuousMaxLpm: number, safeMaxLpm: number): Device => ({
  id,
  name: "Water meter",
  kind: "meter",
  continuousMaxLpm,
  safeMaxLpm,
  lossKpaAt: { flowLpm: continuousMaxLpm, lossKpa: 40 },
});
export const backflow = (id: string, maxLpm: number): Device => ({
  id,
  name: "Backflow preventer",
  kind: "backflow",
  maxLpm,
  lossPoints: [
    { flowLpm: 0, lossKpa: 60 },
    { flowLpm: maxLpm, lossKpa: 95 },
  ],
});
export const valve = (id: string, maxLpm: number, normally: "closed" | "open" = "closed"): Device => ({
  id,
  name: "Master valve",
  kind: "masterValve",
  normally,
  maxLpm,
  kv: maxLpm / 12,
});
const WALKED = { by: "Tolly Brandish", at: "2026-05-05T16:40:00Z" };
/** A device that someone found as drawn; a flow sensor proved against the meter besides, at a small and a large flow. */
export function found(device: Device): Device {
  const seen = withCheck(device, { check: ON_THE_SPOT, ok: true, ...WALKED });
  if (seen.kind !== "flowSensor") return seen;
  const test = (hz: number, seconds: number, off: number) => ({
    hz,
    litres: Number(((flowFromHz(seen.output, hz) * (1 + off) * seconds) / 60).toFixed(1)),
    seconds,
  });
  return {
    ...seen,
    provings: [{ ...WALKED, worstPercent: 0.6, tests: [test(9.4, 300, -0.006), test(41, 240, 0.003)] }],
  };
}
/** Paddle sensors see from 0.15 m/s; the large mains have magnetic ones that state their own minimum. */
export const sensor = (id: string, boreMm: number, kGpm: number, offsetHz: number, minLpm?: number): Device => ({
  id,
  name: "Flow sensor",
  kind: "flowSensor",
  output: { type: "frequency", kGpm, offsetHz },
  insideDiameterMm: boreMm,
  vMinMs: 0.15,
  vMaxMs: 6,
  ...(minLpm === undefined ? {} : { minLpm }),
});

export type Plot = {
  name: string;
  emitter: NonNullable<Station["emitter"]>;
  planting: NonNullable<Station["planting"]>;
  from: number;
  to: number;
  cycle?: Station["cycle"];
  soakMin?: number;
};

/** Pressure that an outlet needs, kPa. */
const NEEDS_KPA: Record<string, number> = { drip: 170, rotor: 310 };

export function stations(
  prefix: string,
  count: number,
  first: number,
  controllerId: string,
  mainlineId: string,
  plots: Plot[],
  seed: number,
  learnedShare = 1,
): Station[] {
  const random = randomFrom(seed);
  return Array.from({ length: count }, (_, i) => {
    const plot = plots[i % plots.length] as Plot;
    const design = Math.round(plot.from + (plot.to - plot.from) * random());
    const mean = Math.round(design * (0.94 + 0.12 * random()) * 10) / 10;
    const sd = Math.round(mean * (0.008 + 0.014 * random()) * 100) / 100;
    const round = Math.floor(i / plots.length) + 1;
    return {
      id: `${prefix}${first + i}`,
      number: first + i,
      name: count > plots.length ? `${plot.name} ${round}` : plot.name,
      controllerId,
      mainlineId,
      planting: plot.planting,
      emitter: plot.emitter,
      designFlowLpm: design,
      requiredKpa: NEEDS_KPA[plot.emitter] ?? 210,
      ...(random() < learnedShare ? { learned: { meanLpm: mean, sdLpm: sd, at: LEARNED_AT } } : {}),
      ...(plot.cycle ? { cycle: plot.cycle, soakMin: plot.soakMin ?? 20 } : {}),
    };
  });
}

export const runs = (list: Station[], minutes: (s: Station) => number): Program["runs"] =>
  list.map((s) => ({ stationId: s.id, minutes: minutes(s) }));
export const byEmitter = (s: Station): number =>
  ({ spray: 9, rotor: 22, drip: 35, bubbler: 6, other: 10 })[s.emitter ?? "other"];
export const ALL_DAYS: Program["days"] = { type: "weekdays", days: [...WEEKDAYS] };

export function file(
  site: SiteFile["site"],
  rest: Omit<SiteFile, "format" | "version" | "site" | "policy"> & { policy?: SiteFile["policy"] },
): SiteFile {
  return { format: "presa-site", version: 1, site, ...rest, policy: rest.policy ?? WATCHFUL };
}
