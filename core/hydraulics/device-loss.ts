import { nth } from "../checked.ts";
import { insideDiameterMm } from "../ceilings/ceilings.ts";
import { frictionLossM, velocityMs } from "../pipes/flow-in-pipe.ts";
import { pipeC } from "../pipes/pipe-table.ts";
import type { Device, DeviceOf, Pipe } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";

const GRAVITY = 9.80665;
/** A pump pushed past its curve: head fades to nothing at this many times its last flow. */
export const RUN_OUT_FACTOR = 1.5;

const POINTS = new WeakMap<DeviceOf<"pump">, { flowLpm: number; headM: number }[]>();

/**
 * Points of a pumping station's curve for all its equal pumps side by side, flows in L/min rising, heads in m, with a last
 * point where the head has faded to 0. Heads are made to fall strictly, as a solver needs.
 */
export function pumpPoints(pump: DeviceOf<"pump">): { flowLpm: number; headM: number }[] {
  const known = POINTS.get(pump);
  if (known) return known;
  const n = pump.parallel ?? 1;
  // Points out of order are sorted; of several at one flow the lowest head holds. `check` tells of both.
  const byFlow = new Map<number, number>();
  for (const p of pump.curve) byFlow.set(p.flowLpm, Math.min(p.headM, byFlow.get(p.flowLpm) ?? p.headM));
  const stated = [...byFlow].sort(([a], [b]) => a - b).map(([flowLpm, headM]) => ({ flowLpm: flowLpm * n, headM }));
  const first = nth(stated, 0);
  const points = first.flowLpm > 0 ? [{ flowLpm: 0, headM: first.headM }, ...stated] : stated;
  const last = nth(points, points.length - 1);
  const all = last.headM > 0 ? [...points, { flowLpm: Math.max(last.flowLpm * RUN_OUT_FACTOR, 1), headM: 0 }] : points;
  let under = Number.POSITIVE_INFINITY;
  const falling = all.map((p) => {
    under = Math.min(p.headM, under - 1e-4);
    return { flowLpm: p.flowLpm, headM: under };
  });
  POINTS.set(pump, falling);
  return falling;
}

/** Head at a flow from the pump's curve, m, linear between points; never under 0. */
export function pumpHeadM(pump: DeviceOf<"pump">, flowLpm: number): number {
  return Math.max(
    0,
    interpolate(
      pumpPoints(pump).map((p) => [p.flowLpm, p.headM]),
      flowLpm,
    ),
  );
}

/** Loss of a pipe at a flow, kPa: Hazen–Williams friction and K·v²/2g of its fittings; 0 where the bore is unknown. */
export function pipeLossKpa(pipe: Pipe, flowLpm: number): number {
  const bore = insideDiameterMm(pipe);
  if (bore === null) return 0;
  const local = ((pipe.minorLossK ?? 0) * velocityMs(flowLpm, bore) ** 2) / (2 * GRAVITY);
  return (frictionLossM(flowLpm, pipe.lengthM, bore, pipeC(pipe)) + local) * KPA_PER_METRE_OF_WATER;
}

/** Pressure behind a device at a flow, kPa (handbook#5-ceilings). Pumps are added by whoever knows whether they run. */
export function afterDevice(d: Device, kPa: number, flowLpm: number): number {
  switch (d.kind) {
    case "meter":
      return d.lossKpaAt ? kPa - d.lossKpaAt.lossKpa * (flowLpm / d.lossKpaAt.flowLpm) ** 2 : kPa;
    case "backflow":
      return kPa - lossFromPoints(d.lossPoints ?? [], flowLpm);
    case "masterValve":
      return d.kv === undefined ? kPa : kPa - 100 * ((flowLpm * 0.06) / d.kv) ** 2;
    case "pipe":
      return kPa - pipeLossKpa(d, flowLpm);
    case "fixedLoss":
      return kPa - d.lossKpa;
    case "regulator":
      return Math.min(kPa, d.setKpa);
    case "pump":
    case "pressureSensor":
    case "flowSensor":
      return kPa;
  }
}

/** Loss from a data sheet's points, kPa: linear between them and on past the last. One point: that loss at any flow. */
export function lossFromPoints(points: { flowLpm: number; lossKpa: number }[], flowLpm: number): number {
  if (points.length === 0) return 0;
  const sorted = [...points].sort((a, b) => a.flowLpm - b.flowLpm);
  const first = nth(sorted, 0);
  if (flowLpm <= first.flowLpm) return first.lossKpa;
  return Math.max(
    0,
    interpolate(
      sorted.map((p) => [p.flowLpm, p.lossKpa]),
      flowLpm,
    ),
  );
}

function interpolate(points: [number, number][], x: number): number {
  if (points.length === 1) return points[0]?.[1] as number;
  let i = 1;
  while (i < points.length - 1 && x > (points[i]?.[0] as number)) i++;
  const [[x0, y0], [x1, y1]] = [nth(points, i - 1), nth(points, i)];
  return x1 === x0 ? y1 : y0 + ((y1 - y0) * (x - x0)) / (x1 - x0);
}
