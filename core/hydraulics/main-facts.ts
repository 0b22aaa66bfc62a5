import { ceilings, insideDiameterMm, staticPressureKpa, USUAL_MAX_VELOCITY_MS } from "../ceilings/ceilings.ts";
import { inUse } from "../network/in-use.ts";
import { frictionLossM, pipeVolumeL, velocityMs } from "../pipes/flow-in-pipe.ts";
import { pipeC } from "../pipes/pipe-table.ts";
import { pipeRatingKpa, surgeKpa, waveSpeedMs } from "../pipes/surge.ts";
import type { DeviceOf, Pipe, SiteFile } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { pumpPoints, RUN_OUT_FACTOR } from "./device-loss.ts";

export type FillTime = { litres: number; fillingLpm: number | null; seconds: number | null; mains: string[] };

/**
 * Filling of an empty main (handbook#5-ceilings): its own water and that of every main under it which no master valve of its own keeps
 * shut, at the flow that can fill it: the smallest of the main's ceiling and what its feeds carry together.
 */
export function fillTime(whole: SiteFile, mainlineId: string): FillTime {
  const site = inUse(whole);
  const mains = [mainlineId];
  for (const id of mains)
    for (const m of site.mainlines)
      if (m.feedIds.includes(id) && !mains.includes(m.id) && !m.devices?.some((d) => d.kind === "masterValve"))
        mains.push(m.id);
  const litres = site.mainlines
    .filter((m) => mains.includes(m.id))
    .flatMap((m) => m.pipes)
    .reduce((sum, p) => {
      const bore = insideDiameterMm(p);
      return bore === null ? sum : sum + pipeVolumeL(p.lengthM, bore);
    }, 0);
  const ceiling = new Map(ceilings(site).map((c) => [c.id, c.ceilingLpm ?? Number.POSITIVE_INFINITY]));
  const known = new Map<string, number>();
  const through = (id: string): number => {
    const ready = known.get(id);
    if (ready !== undefined) return ready;
    const own = ceiling.get(id) ?? Number.POSITIVE_INFINITY;
    const main = site.mainlines.find((m) => m.id === id);
    const lpm = main
      ? Math.min(
          own,
          main.feedIds.reduce((sum, f) => sum + through(f), 0),
        )
      : own;
    known.set(id, lpm);
    return lpm;
  };
  const flow = through(mainlineId);
  const fillingLpm = Number.isFinite(flow) && flow > 0 ? flow : null;
  return { litres, fillingLpm, seconds: fillingLpm === null ? null : Math.ceil((litres / fillingLpm) * 60), mains };
}

export type PipeFacts = {
  insideMm: number;
  velocityMs: number;
  lossKpa: number;
  lossPer100: number;
  waveMs: number | null;
  surgeKpa: number | null;
  staticKpa: number | null;
  ratingKpa: number | null;
  caution: "fast" | "overRating" | null;
};

/** One pipe at one flow: velocity, friction, and the worst surge against what its standard lets it carry. Null where its bore is unknown. */
export function pipeFacts(site: SiteFile, pipe: Pipe, flowLpm: number): PipeFacts | null {
  const insideMm = insideDiameterMm(pipe);
  if (insideMm === null) return null;
  const v = velocityMs(flowLpm, insideMm);
  const waveMs = waveSpeedMs(pipe);
  const surge = waveMs === null ? null : surgeKpa(waveMs, v);
  const ratingKpa = pipeRatingKpa(pipe);
  const staticKpa = highestStaticKpa(site);
  const over = surge !== null && ratingKpa !== null && (staticKpa ?? 0) + surge > ratingKpa;
  const fast = v > USUAL_MAX_VELOCITY_MS + 1e-9 ? "fast" : null;
  return {
    insideMm,
    velocityMs: v,
    lossKpa: frictionLossM(flowLpm, pipe.lengthM, insideMm, pipeC(pipe)) * KPA_PER_METRE_OF_WATER,
    lossPer100: frictionLossM(flowLpm, 100, insideMm, pipeC(pipe)),
    waveMs,
    surgeKpa: surge,
    staticKpa,
    ratingKpa,
    caution: over ? "overRating" : fast,
  };
}

/** The most a pipe of the site may stand under with nothing flowing: the highest stated supply, with its pump's shut-off head. */
export function highestStaticKpa(site: SiteFile): number | null {
  const stands = site.pocs.flatMap((p) => {
    const still = staticPressureKpa(site, p);
    const head = p.devices.reduce((sum, d) => sum + (d.kind === "pump" ? (pumpPoints(d)[0]?.headM ?? 0) : 0), 0);
    return still === null && head === 0 ? [] : [(still ?? 0) + head * KPA_PER_METRE_OF_WATER];
  });
  return stands.length > 0 ? Math.max(...stands) : null;
}

export type PumpFacts = {
  shutOffHeadM: number;
  endOfCurveLpm: number;
  runOutLpm: number;
  bestEfficiencyLpm: number | null;
  mostLpm: number;
  minFlowLpm: number | null;
  count: number;
};

/** What a pump's data sheet says, for all its equal pumps side by side: shut-off head, end of curve, run-out, best efficiency and the 115 % of it, minimum. */
export function pumpFacts(pump: DeviceOf<"pump">): PumpFacts {
  const count = pump.parallel ?? 1;
  const end = Math.max(...pump.curve.map((p) => p.flowLpm)) * count;
  const best = pump.bestEfficiencyLpm === undefined ? null : pump.bestEfficiencyLpm * count;
  const lastHead = pump.curve[pump.curve.length - 1]?.headM ?? 0;
  return {
    shutOffHeadM: pumpPoints(pump)[0]?.headM ?? 0,
    endOfCurveLpm: end,
    runOutLpm: lastHead > 0 ? end * RUN_OUT_FACTOR : end,
    bestEfficiencyLpm: best,
    mostLpm: best === null ? end : 1.15 * best,
    minFlowLpm: pump.minFlowLpm ?? null,
    count,
  };
}
