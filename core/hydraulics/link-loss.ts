import { nth } from "../checked.ts";
import { lossFromPoints } from "./device-loss.ts";
import type { HydraulicModel, ModelLink } from "./network-model.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";

/** Losses of links in a row, as sums: `pipe`·Q^1.852 and `square`·Q² (m, Q in L/min), a fixed part, and what has a curve of its own. */
export type Row = {
  from: number;
  to: number;
  pipe: number;
  square: number;
  fixedM: number;
  curves: { link: ModelLink; sign: 1 | -1 }[];
  parts: { link: number; sign: 1 | -1 }[];
  forward: boolean;
  backward: boolean;
};

/** Against the way of a check valve, m per L/min: nothing to speak of passes. */
const AGAINST = 1e3;
/** A joint has no loss; this little keeps the equations solvable, m per L/min. */
const JOINT = 1e-7;
const EXPONENT = 1.852;

export function oneWay(l: ModelLink): boolean {
  return l.kind === "joint" || l.kind === "pump" || l.kind === "bypass";
}

export function lossOf(link: ModelLink): Omit<Row, "from" | "to" | "parts"> {
  const row = { pipe: 0, square: 0, fixedM: 0, curves: [] as Row["curves"], forward: true, backward: !oneWay(link) };
  switch (link.kind) {
    case "pipe": {
      const perSecond = 1 / 60_000;
      const bore = link.insideMm / 1000;
      row.pipe = (10.67 * link.lengthM * perSecond ** EXPONENT) / (link.c ** EXPONENT * bore ** 4.8704);
      row.square = (link.minorK * (perSecond / ((Math.PI * bore * bore) / 4)) ** 2) / (2 * 9.80665);
      break;
    }
    case "supply":
      row.pipe = link.dropKpa / KPA_PER_METRE_OF_WATER / link.atLpm ** EXPONENT;
      break;
    case "quadraticLoss":
      row.square = link.lossKpa / KPA_PER_METRE_OF_WATER / link.atLpm ** 2;
      break;
    case "fixedLoss":
      row.fixedM = link.lossKpa / KPA_PER_METRE_OF_WATER;
      break;
    case "pump":
    case "lossCurve":
    case "regulator":
      row.curves.push({ link, sign: 1 });
      break;
    case "joint":
    case "bypass":
      break;
  }
  return row;
}

/** Loss of what has a curve of its own, in its own direction, m; a pump's is negative. */
function curveLoss(
  link: ModelLink,
  flow: number,
  headBefore: number,
  model: HydraulicModel,
): { loss: number; slope: number } {
  switch (link.kind) {
    case "lossCurve": {
      const size = Math.abs(flow);
      const [at, on] = [lossFromPoints(link.points, size), lossFromPoints(link.points, size + 1)];
      const root = Math.sqrt(flow * flow + 1);
      return {
        loss: (at * flow) / root / KPA_PER_METRE_OF_WATER,
        slope: Math.max(0, on - at) / KPA_PER_METRE_OF_WATER + at / KPA_PER_METRE_OF_WATER / root ** 3,
      };
    }
    case "pump": {
      const { points } = link;
      let i = 1;
      while (i < points.length - 1 && flow > nth(points, i).flowLpm) i++;
      const [a, b] = [points[i - 1], points[i]] as [
        { flowLpm: number; headM: number },
        { flowLpm: number; headM: number },
      ];
      const slope = (a.headM - b.headM) / Math.max(1e-6, b.flowLpm - a.flowLpm);
      return { loss: -(a.headM - slope * (flow - a.flowLpm)), slope };
    }
    case "regulator":
      return {
        loss: Math.max(0, headBefore - (model.nodes[link.to]?.elevationM ?? 0) - link.setKpa / KPA_PER_METRE_OF_WATER),
        slope: 1e-4,
      };
    default:
      return { loss: 0, slope: 0 };
  }
}

/** An outlet's pressure at its flow, m: (q ÷ coefficient)², and none that sucks. */
export function outletLoss(flow: number, coefficient: number): { loss: number; slope: number } {
  if (flow <= 0) return { loss: AGAINST * flow, slope: AGAINST };
  return { loss: (flow / coefficient) ** 2, slope: Math.max((2 * flow) / coefficient ** 2, 1e-9) };
}

/** Loss of a row at a flow, m, and its slope, m per L/min. */
export function rowLoss(
  model: HydraulicModel,
  row: Row,
  flow: number,
  headFrom: number,
  headTo: number,
): { loss: number; slope: number } {
  const size = Math.abs(flow);
  const power = row.pipe * size ** (EXPONENT - 1);
  let loss = power * flow + row.square * size * flow + JOINT * flow;
  let slope = EXPONENT * power + 2 * row.square * size + JOINT;
  if (row.fixedM > 0) {
    const root = Math.sqrt(flow * flow + 1);
    loss += (row.fixedM * flow) / root;
    slope += row.fixedM / root ** 3;
  }
  for (const { link, sign } of row.curves) {
    const own = curveLoss(link, sign * flow, sign === 1 ? headFrom : headTo, model);
    loss += sign * own.loss;
    slope += own.slope;
  }
  if ((flow < 0 && !row.backward) || (flow > 0 && !row.forward)) {
    loss += AGAINST * flow;
    slope += AGAINST;
  }
  return { loss, slope: Math.max(slope, 1e-9) };
}
