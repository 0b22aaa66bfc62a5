import { lossFromPoints } from "./device-loss.ts";
import type { HydraulicModel, ModelLink } from "./network-model.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";

/** Something that lets water out at a node: `lpm` whatever the pressure, or `coefficient`·√(metres of pressure). */
export type Outlet = { node: number; lpm: number } | { node: number; coefficient: number };
export type OpenSet = {
  outlets: readonly Outlet[];
  /** Links that are shut, by place in the model. */
  shut: ReadonlySet<number>;
  /** Water level of reservoirs where it is not the model's, m. */
  headM?: ReadonlyMap<number, number>;
  /** What links lose besides, at any flow, m. */
  extraM?: ReadonlyMap<number, number>;
};
export type OpenFlows = {
  /** Of each outlet, L/min. */
  outletLpm: number[];
  /** Pressure at each outlet's node, kPa; 0 or less where no water reaches. */
  outletKpa: number[];
  /** Through every link, L/min, in its own direction. */
  linkLpm: Float64Array;
  balanced: boolean;
};

/** Losses of links in a row, as sums: `pipe`·Q^1.852 and `square`·Q² (m, Q in L/min), a fixed part, and what has a curve of its own. */
type Row = { from: number; to: number; pipe: number; square: number; fixedM: number; curves: { link: ModelLink; sign: 1 | -1 }[]; parts: { link: number; sign: 1 | -1 }[]; forward: boolean; backward: boolean };

const MOST_ROUNDS = 60;
const CLOSE_ENOUGH = 1e-6;
/** Against the way of a check valve, m per L/min: nothing to speak of passes. */
const AGAINST = 1e3;
/** A joint has no loss; this little keeps the equations solvable, m per L/min. */
const JOINT = 1e-7;
const EXPONENT = 1.852;

/**
 * Flows of a network whose outlets give by pressure (gradient method of Todini and Pilati, Hazen–Williams): what the bench asks for every set of open valves. Only what
 * lies between sources and open outlets is solved, links in a row as one, so a set costs by what is open and not by the size of the site.
 *
 * Differs from `solver.ts` in that outlets follow pressure and nothing is loaded; held to it by test.
 */
export class OpenNetwork {
  private readonly near: { link: number; other: number }[][];
  private readonly rowOf: Omit<Row, "from" | "to" | "parts">[];
  private readonly model: HydraulicModel;

  constructor(model: HydraulicModel) {
    this.model = model;
    this.near = model.nodes.map(() => []);
    model.links.forEach((l, link) => {
      this.near[l.from]?.push({ link, other: l.to });
      this.near[l.to]?.push({ link, other: l.from });
    });
    this.rowOf = model.links.map(lossOf);
  }

  solve(set: OpenSet): OpenFlows {
    const { model } = this;
    const flows: OpenFlows = { outletLpm: set.outlets.map(() => 0), outletKpa: set.outlets.map(() => 0), linkLpm: new Float64Array(model.links.length), balanced: true };
    const reached = this.reached(set);
    const outlets = set.outlets.map((o, i) => ({ o, i })).filter(({ o }) => reached.has(o.node) && ("lpm" in o ? o.lpm > 0 : o.coefficient > 0));
    if (outlets.length === 0) return flows;
    const rows = this.rows(set, reached, new Set(outlets.map(({ o }) => o.node)));

    // Junctions get places in the equations; reservoirs have their heads.
    const place = new Map<number, number>();
    for (const r of rows) for (const n of [r.from, r.to]) if (model.nodes[n]?.kind !== "reservoir" && !place.has(n)) place.set(n, place.size);
    const n = place.size;
    const fixedHead = (node: number): number => set.headM?.get(node) ?? model.nodes[node]?.headM ?? model.nodes[node]?.elevationM ?? 0;
    const level = (node: number): number => model.nodes[node]?.elevationM ?? 0;
    const head = new Float64Array(n);
    for (const [node, at] of place) head[at] = level(node) + 30;
    const headOf = (node: number): number => { const at = place.get(node); return at === undefined ? fixedHead(node) : (head[at] as number); };
    const total = outlets.reduce((sum, { o }) => sum + ("lpm" in o ? o.lpm : o.coefficient * 5), 0);
    const q = Float64Array.from(rows, (r) => (r.forward ? 1 : -1) * Math.max(1, total / 2));
    const out = outlets.map(({ o }) => ("lpm" in o ? o.lpm : o.coefficient * 5));
    const matrix = new Float64Array(n * n);
    const right = new Float64Array(n);
    let balanced = false;
    for (let round = 0; round < MOST_ROUNDS; round++) {
      matrix.fill(0);
      right.fill(0);
      const step = rows.map((r, i) => this.linear(r, q[i] as number, headOf));
      rows.forEach((r, i) => {
        const { loss, slope } = step[i] as { loss: number; slope: number };
        const p = 1 / slope;
        // Flow as it would be with equal heads at both ends.
        const rest = (q[i] as number) - loss * p;
        const [a, b] = [place.get(r.from), place.get(r.to)];
        if (a !== undefined) { matrix[a * n + a] = (matrix[a * n + a] as number) + p; right[a] = (right[a] as number) - rest; }
        if (b !== undefined) { matrix[b * n + b] = (matrix[b * n + b] as number) + p; right[b] = (right[b] as number) + rest; }
        if (a !== undefined && b !== undefined) { matrix[a * n + b] = (matrix[a * n + b] as number) - p; matrix[b * n + a] = (matrix[b * n + a] as number) - p; }
        if (a === undefined && b !== undefined) right[b] = (right[b] as number) + p * fixedHead(r.from);
        if (b === undefined && a !== undefined) right[a] = (right[a] as number) + p * fixedHead(r.to);
      });
      outlets.forEach(({ o }, k) => {
        const at = place.get(o.node) as number;
        if ("lpm" in o) { right[at] = (right[at] as number) - o.lpm; return; }
        const { loss, slope } = outletLoss(out[k] as number, o.coefficient);
        const p = 1 / slope;
        matrix[at * n + at] = (matrix[at * n + at] as number) + p;
        right[at] = (right[at] as number) - ((out[k] as number) - loss * p) + p * level(o.node);
      });
      solveSymmetric(matrix, right, n);
      head.set(right);
      let moved = 0;
      let sum = 0;
      rows.forEach((r, i) => {
        const { loss, slope } = step[i] as { loss: number; slope: number };
        const next = (q[i] as number) + (headOf(r.from) - headOf(r.to) - loss) / slope;
        moved += Math.abs(next - (q[i] as number));
        sum += Math.abs(next);
        q[i] = next;
      });
      outlets.forEach(({ o }, k) => {
        if ("lpm" in o) return;
        const { loss, slope } = outletLoss(out[k] as number, o.coefficient);
        const next = (out[k] as number) + (headOf(o.node) - level(o.node) - loss) / slope;
        moved += Math.abs(next - (out[k] as number));
        out[k] = next;
      });
      if (moved <= CLOSE_ENOUGH * Math.max(1, sum)) { balanced = true; break; }
    }
    rows.forEach((r, i) => { for (const { link, sign } of r.parts) flows.linkLpm[link] = sign * (q[i] as number); });
    outlets.forEach(({ o, i }, k) => {
      flows.outletLpm[i] = Math.max(0, out[k] as number);
      flows.outletKpa[i] = (headOf(o.node) - level(o.node)) * KPA_PER_METRE_OF_WATER;
    });
    flows.balanced = balanced;
    return flows;
  }

  /** Nodes that water can reach from a reservoir, with the way of check valves. */
  private reached(set: OpenSet): Set<number> {
    const found = new Set(this.model.nodes.flatMap((n, i) => (n.kind === "reservoir" ? [i] : [])));
    for (const node of found)
      for (const { link, other } of this.near[node] ?? []) {
        const l = this.model.links[link] as ModelLink;
        if (!set.shut.has(link) && !found.has(other) && (l.from === node || !oneWay(l))) found.add(other);
      }
    return found;
  }

  /** Links between sources and outlets, dead ends cut off, those in a row joined. */
  private rows(set: OpenSet, reached: Set<number>, outlets: Set<number>): Row[] {
    const { model } = this;
    const live = (link: number): boolean => { const l = model.links[link] as ModelLink; return !set.shut.has(link) && reached.has(l.from) && reached.has(l.to); };
    const degree = new Map<number, number>();
    const alive = new Set<number>();
    for (const node of reached) for (const { link } of this.near[node] ?? []) if (live(link)) alive.add(link);
    for (const link of alive) { const l = model.links[link] as ModelLink; degree.set(l.from, (degree.get(l.from) ?? 0) + 1); degree.set(l.to, (degree.get(l.to) ?? 0) + 1); }
    const holds = (n: number): boolean => outlets.has(n) || model.nodes[n]?.kind === "reservoir";
    const ends = [...degree.keys()].filter((n) => degree.get(n) === 1 && !holds(n));
    for (const node of ends) {
      const only = (this.near[node] ?? []).find(({ link }) => alive.has(link));
      if (!only || degree.get(node) !== 1) continue;
      alive.delete(only.link);
      degree.set(node, 0);
      degree.set(only.other, (degree.get(only.other) as number) - 1);
      if (degree.get(only.other) === 1 && !holds(only.other)) ends.push(only.other);
    }
    const kept = (node: number): boolean => holds(node) || degree.get(node) !== 2 || (this.near[node] ?? []).some(({ link }) => alive.has(link) && model.links[link]?.kind === "regulator");
    const rows: Row[] = [];
    const done = new Set<number>();
    for (const begin of degree.keys()) {
      if ((degree.get(begin) ?? 0) === 0 || !kept(begin)) continue;
      for (const first of this.near[begin] ?? []) {
        if (!alive.has(first.link) || done.has(first.link)) continue;
        const row: Row = { from: begin, to: begin, pipe: 0, square: 0, fixedM: 0, curves: [], parts: [], forward: true, backward: true };
        let node = begin;
        let next: { link: number; other: number } | undefined = first;
        while (next) {
          const { link, other } = next;
          done.add(link);
          const sign = model.links[link]?.from === node ? 1 : -1;
          this.add(row, link, sign);
          row.fixedM += set.extraM?.get(link) ?? 0;
          node = other;
          next = kept(node) ? undefined : (this.near[node] ?? []).find((x) => alive.has(x.link) && !done.has(x.link));
        }
        row.to = node;
        if (row.to !== row.from) rows.push(row);
      }
    }
    return rows;
  }

  private add(row: Row, link: number, sign: 1 | -1): void {
    const own = this.rowOf[link] as Omit<Row, "from" | "to" | "parts">;
    row.pipe += own.pipe;
    row.square += own.square;
    row.fixedM += own.fixedM;
    for (const c of own.curves) row.curves.push({ link: c.link, sign });
    row.parts.push({ link, sign });
    row.forward &&= sign === 1 ? own.forward : own.backward;
    row.backward &&= sign === 1 ? own.backward : own.forward;
  }

  /** Loss of a row at a flow, m, and its slope, m per L/min. */
  private linear(row: Row, flow: number, headOf: (node: number) => number): { loss: number; slope: number } {
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
      const own = curveLoss(link, sign * flow, () => headOf(sign === 1 ? row.from : row.to), this.model);
      loss += sign * own.loss;
      slope += own.slope;
    }
    if ((flow < 0 && !row.backward) || (flow > 0 && !row.forward)) {
      loss += AGAINST * flow;
      slope += AGAINST;
    }
    return { loss, slope: Math.max(slope, 1e-9) };
  }
}

function oneWay(l: ModelLink): boolean {
  return l.kind === "joint" || l.kind === "pump" || l.kind === "bypass";
}

function lossOf(link: ModelLink): Omit<Row, "from" | "to" | "parts"> {
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
    case "pump": case "lossCurve": case "regulator":
      row.curves.push({ link, sign: 1 });
      break;
    case "joint": case "bypass":
      break;
  }
  return row;
}

/** Loss of what has a curve of its own, in its own direction, m; a pump's is negative. */
function curveLoss(link: ModelLink, flow: number, headBefore: () => number, model: HydraulicModel): { loss: number; slope: number } {
  switch (link.kind) {
    case "lossCurve": {
      const size = Math.abs(flow);
      const [at, on] = [lossFromPoints(link.points, size), lossFromPoints(link.points, size + 1)];
      const root = Math.sqrt(flow * flow + 1);
      return { loss: (at * flow) / root / KPA_PER_METRE_OF_WATER, slope: Math.max(0, on - at) / KPA_PER_METRE_OF_WATER + at / KPA_PER_METRE_OF_WATER / root ** 3 };
    }
    case "pump": {
      const { points } = link;
      let i = 1;
      while (i < points.length - 1 && flow > (points[i] as { flowLpm: number }).flowLpm) i++;
      const [a, b] = [points[i - 1], points[i]] as [{ flowLpm: number; headM: number }, { flowLpm: number; headM: number }];
      const slope = (a.headM - b.headM) / Math.max(1e-6, b.flowLpm - a.flowLpm);
      return { loss: -(a.headM - slope * (flow - a.flowLpm)), slope };
    }
    case "regulator":
      return { loss: Math.max(0, headBefore() - (model.nodes[link.to]?.elevationM ?? 0) - link.setKpa / KPA_PER_METRE_OF_WATER), slope: 1e-4 };
    default:
      return { loss: 0, slope: 0 };
  }
}

/** An outlet's pressure at its flow, m: (q ÷ coefficient)², and none that sucks. */
function outletLoss(flow: number, coefficient: number): { loss: number; slope: number } {
  if (flow <= 0) return { loss: AGAINST * flow, slope: AGAINST };
  return { loss: (flow / coefficient) ** 2, slope: Math.max((2 * flow) / coefficient ** 2, 1e-9) };
}

/** Solves a symmetric positive definite system in place (Cholesky); the answer is left in `right`. */
function solveSymmetric(matrix: Float64Array, right: Float64Array, n: number): void {
  for (let j = 0; j < n; j++) {
    for (let k = 0; k < j; k++) {
      const f = matrix[j * n + k] as number;
      if (f === 0) continue;
      for (let i = j; i < n; i++) matrix[i * n + j] = (matrix[i * n + j] as number) - (matrix[i * n + k] as number) * f;
    }
    const root = Math.sqrt(Math.max(matrix[j * n + j] as number, 1e-18));
    for (let i = j; i < n; i++) matrix[i * n + j] = (matrix[i * n + j] as number) / root;
  }
  for (let i = 0; i < n; i++) {
    let sum = right[i] as number;
    for (let k = 0; k < i; k++) sum -= (matrix[i * n + k] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * n + i] as number);
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = right[i] as number;
    for (let k = i + 1; k < n; k++) sum -= (matrix[k * n + i] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * n + i] as number);
  }
}
