import { flowAtVelocityLpm, frictionLossM, velocityMs } from "./flow-in-pipe.ts";
import type { PipeSeries } from "./pipe-table.ts";

export type SizedPipe = {
  nominal: string;
  insideMm: number;
  velocityMs: number;
  /** Most it may carry at the velocity asked for, L/min. */
  mostLpm: number;
  /** Friction, m of water per 100 m (so also ft per 100 ft). */
  lossPer100: number;
  keeps: boolean;
};

/**
 * Every size of a series at a flow: its velocity, what it may carry at `maxMs`, and its friction by Hazen–Williams (handbook#5-ceilings). The
 * first that `keeps` the velocity is the size to take.
 * @param flowLpm above 0.
 */
export function sizesAt(series: PipeSeries, flowLpm: number, maxMs: number): SizedPipe[] {
  return series.sizes.map(({ nominal, insideMm }) => {
    const mostLpm = flowAtVelocityLpm(maxMs, insideMm);
    return {
      nominal,
      insideMm,
      velocityMs: velocityMs(flowLpm, insideMm),
      mostLpm,
      lossPer100: frictionLossM(flowLpm, 100, insideMm, series.hazenWilliamsC),
      keeps: flowLpm <= mostLpm + 1e-9,
    };
  });
}

/** Smallest size of the series that keeps the velocity at this flow; null when none does. */
export function sizeFor(series: PipeSeries, flowLpm: number, maxMs: number): SizedPipe | null {
  return sizesAt(series, flowLpm, maxMs).find((s) => s.keeps) ?? null;
}
