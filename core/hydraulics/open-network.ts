import { solveSymmetric } from "./solve-symmetric.ts";
import { AGAINST, JOINT, EXPONENT, oneWay, lossOf, curveLoss, outletLoss, type Row } from "./link-loss.ts";
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

/** For one choice of shut links: what water reaches, links between such nodes, how many at each node, and dead ends. */
type Base = { reached: Uint8Array; alive: Uint8Array; degree: Int32Array; ends: number[] };

const MOST_ROUNDS = 60;
const CLOSE_ENOUGH = 1e-6;
/**
 * Flows of a network whose outlets give by pressure (gradient method of Todini and Pilati, Hazen–Williams): what the bench asks for every set of open valves. Only what
 * lies between sources and open outlets is solved, links in a row as one, so a set costs by what is open and not by the size of the site.
 *
 * Differs from `solver.ts` in that outlets follow pressure and nothing is loaded; held to it by test.
 */
export class OpenNetwork {
  /** Links at each node, and what they lead to. */
  private readonly near: { link: number; other: number }[][];
  private readonly rowOf: Omit<Row, "from" | "to" | "parts">[];
  private readonly model: HydraulicModel;
  private readonly reservoir: Uint8Array;
  /** Ends of regulators stay nodes of their own: their pressure is asked for. */
  private readonly byRegulator: Uint8Array;
  private readonly bases = new Map<string, Base>();

  constructor(model: HydraulicModel) {
    this.model = model;
    this.near = model.nodes.map(() => []);
    this.reservoir = Uint8Array.from(model.nodes, (n) => (n.kind === "reservoir" ? 1 : 0));
    this.byRegulator = new Uint8Array(model.nodes.length);
    model.links.forEach((l, link) => {
      this.near[l.from]?.push({ link, other: l.to });
      this.near[l.to]?.push({ link, other: l.from });
      if (l.kind === "regulator") this.byRegulator[l.from] = this.byRegulator[l.to] = 1;
    });
    this.rowOf = model.links.map(lossOf);
  }

  solve(set: OpenSet): OpenFlows {
    const { model } = this;
    const flows: OpenFlows = {
      outletLpm: set.outlets.map(() => 0),
      outletKpa: set.outlets.map(() => 0),
      linkLpm: new Float64Array(model.links.length),
      balanced: true,
    };
    const base = this.base(set.shut);
    const outlets = set.outlets
      .map((o, i) => ({ o, i }))
      .filter(({ o }) => base.reached[o.node] === 1 && ("lpm" in o ? o.lpm > 0 : o.coefficient > 0));
    if (outlets.length === 0) return flows;
    const rows = this.rows(
      set,
      base,
      outlets.map(({ o }) => o.node),
    );

    // Junctions get places in the equations; reservoirs have their heads.
    const place = new Map<number, number>();
    for (const r of rows) {
      if (this.reservoir[r.from] === 0 && !place.has(r.from)) place.set(r.from, place.size);
      if (this.reservoir[r.to] === 0 && !place.has(r.to)) place.set(r.to, place.size);
    }
    const n = place.size;
    const level = (node: number): number => model.nodes[node]?.elevationM ?? 0;
    const fixed = (node: number): number => set.headM?.get(node) ?? model.nodes[node]?.headM ?? level(node);
    const head = new Float64Array(n);
    for (const [node, at] of place) head[at] = level(node) + 30;
    const from = Int32Array.from(rows, (r) => place.get(r.from) ?? -1);
    const to = Int32Array.from(rows, (r) => place.get(r.to) ?? -1);
    const fixedFrom = Float64Array.from(rows, (r) => fixed(r.from));
    const fixedTo = Float64Array.from(rows, (r) => fixed(r.to));
    const outAt = Int32Array.from(outlets, ({ o }) => place.get(o.node) as number);
    const outLevel = Float64Array.from(outlets, ({ o }) => level(o.node));
    const coefficient = Float64Array.from(outlets, ({ o }) => ("lpm" in o ? 0 : o.coefficient));
    const out = Float64Array.from(outlets, ({ o }) => ("lpm" in o ? o.lpm : o.coefficient * 5));
    const begin = Math.max(1, out.reduce((a, b) => a + b, 0) / 2);
    const q = Float64Array.from(rows, (r) => (r.forward ? begin : -begin));
    const loss = new Float64Array(rows.length);
    const slope = new Float64Array(rows.length);
    const outLoss = new Float64Array(out.length);
    const outSlope = new Float64Array(out.length);
    const matrix = new Float64Array(n * n);
    const right = new Float64Array(n);
    const at = (list: Float64Array, i: number): number => list[i] as number;
    let balanced = false;
    for (let round = 0; round < MOST_ROUNDS && !balanced; round++) {
      matrix.fill(0);
      right.fill(0);
      for (let i = 0; i < rows.length; i++) {
        const [a, b] = [from[i] as number, to[i] as number];
        const linear = this.linear(
          rows[i] as Row,
          at(q, i),
          a < 0 ? at(fixedFrom, i) : at(head, a),
          b < 0 ? at(fixedTo, i) : at(head, b),
        );
        loss[i] = linear.loss;
        slope[i] = linear.slope;
        const p = 1 / linear.slope;
        // Flow as it would be with equal heads at both ends.
        const rest = at(q, i) - linear.loss * p;
        if (a >= 0) {
          matrix[a * n + a] = at(matrix, a * n + a) + p;
          right[a] = at(right, a) - rest + (b < 0 ? p * at(fixedTo, i) : 0);
        }
        if (b >= 0) {
          matrix[b * n + b] = at(matrix, b * n + b) + p;
          right[b] = at(right, b) + rest + (a < 0 ? p * at(fixedFrom, i) : 0);
        }
        if (a >= 0 && b >= 0) {
          matrix[a * n + b] = at(matrix, a * n + b) - p;
          matrix[b * n + a] = at(matrix, b * n + a) - p;
        }
      }
      for (let k = 0; k < out.length; k++) {
        const a = outAt[k] as number;
        const c = at(coefficient, k);
        if (c === 0) {
          right[a] = at(right, a) - at(out, k);
          continue;
        }
        const linear = outletLoss(at(out, k), c);
        outLoss[k] = linear.loss;
        outSlope[k] = linear.slope;
        const p = 1 / linear.slope;
        matrix[a * n + a] = at(matrix, a * n + a) + p;
        right[a] = at(right, a) - (at(out, k) - linear.loss * p) + p * at(outLevel, k);
      }
      solveSymmetric(matrix, right, n);
      head.set(right);
      let moved = 0;
      let sum = 0;
      for (let i = 0; i < rows.length; i++) {
        const [a, b] = [from[i] as number, to[i] as number];
        const step =
          ((a < 0 ? at(fixedFrom, i) : at(head, a)) - (b < 0 ? at(fixedTo, i) : at(head, b)) - at(loss, i)) /
          at(slope, i);
        q[i] = at(q, i) + step;
        moved += Math.abs(step);
        sum += Math.abs(at(q, i));
      }
      for (let k = 0; k < out.length; k++) {
        if (at(coefficient, k) === 0) continue;
        const step = (at(head, outAt[k] as number) - at(outLevel, k) - at(outLoss, k)) / at(outSlope, k);
        out[k] = at(out, k) + step;
        moved += Math.abs(step);
      }
      balanced = moved <= CLOSE_ENOUGH * Math.max(1, sum);
    }
    rows.forEach((r, i) => {
      for (const { link, sign } of r.parts) flows.linkLpm[link] = sign * at(q, i);
    });
    outlets.forEach(({ i }, k) => {
      flows.outletLpm[i] = Math.max(0, at(out, k));
      flows.outletKpa[i] = (at(head, outAt[k] as number) - at(outLevel, k)) * KPA_PER_METRE_OF_WATER;
    });
    flows.balanced = balanced;
    return flows;
  }

  /** What holds for every set that leaves the same links shut: nodes that water can reach from a reservoir, with the way of check valves, and the links between them. */
  private base(shut: ReadonlySet<number>): Base {
    const key = [...shut].sort((a, b) => a - b).join();
    const known = this.bases.get(key);
    if (known) return known;
    const { model } = this;
    const reached = Uint8Array.from(this.reservoir);
    const found = model.nodes.flatMap((_, i) => (this.reservoir[i] === 1 ? [i] : []));
    for (const node of found)
      for (const { link, other } of this.near[node] ?? []) {
        const l = model.links[link] as ModelLink;
        if (shut.has(link) || reached[other] === 1 || (l.from !== node && oneWay(l))) continue;
        reached[other] = 1;
        found.push(other);
      }
    const alive = Uint8Array.from(model.links, (l, i) =>
      !shut.has(i) && reached[l.from] === 1 && reached[l.to] === 1 ? 1 : 0,
    );
    const degree = new Int32Array(model.nodes.length);
    model.links.forEach((l, i) => {
      if (alive[i] === 0) return;
      degree[l.from] = (degree[l.from] as number) + 1;
      degree[l.to] = (degree[l.to] as number) + 1;
    });
    const ends = model.nodes.flatMap((_, i) => (degree[i] === 1 && this.reservoir[i] === 0 ? [i] : []));
    const base = { reached, alive, degree, ends };
    this.bases.set(key, base);
    return base;
  }

  /** Links between sources and outlets, dead ends cut off, those in a row joined. */
  private rows(set: OpenSet, base: Base, outletNodes: number[]): Row[] {
    const alive = base.alive.slice();
    const degree = base.degree.slice();
    const holds = this.reservoir.slice();
    for (const node of outletNodes) holds[node] = 1;
    const ends = base.ends.filter((node) => holds[node] === 0);
    for (const node of ends) {
      if (degree[node] !== 1) continue;
      for (const { link, other } of this.near[node] as { link: number; other: number }[]) {
        if (alive[link] === 0) continue;
        alive[link] = 0;
        degree[node] = 0;
        degree[other] = (degree[other] as number) - 1;
        if (degree[other] === 1 && holds[other] === 0) ends.push(other);
        break;
      }
    }
    const kept = (node: number): boolean => holds[node] === 1 || degree[node] !== 2 || this.byRegulator[node] === 1;
    const rows: Row[] = [];
    for (let begin = 0; begin < degree.length; begin++) {
      if (degree[begin] === 0 || !kept(begin)) continue;
      for (const first of this.near[begin] as { link: number; other: number }[]) {
        if (alive[first.link] === 0) continue;
        const row: Row = {
          from: begin,
          to: begin,
          pipe: 0,
          square: 0,
          fixedM: 0,
          curves: [],
          parts: [],
          forward: true,
          backward: true,
        };
        let node = begin;
        let next: { link: number; other: number } | undefined = first;
        while (next) {
          const { link, other } = next;
          // A link belongs to one row.
          alive[link] = 0;
          this.add(row, link, this.model.links[link]?.from === node ? 1 : -1);
          row.fixedM += set.extraM?.get(link) ?? 0;
          node = other;
          next = kept(node) ? undefined : this.near[node]?.find((x) => alive[x.link] === 1);
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
  private linear(row: Row, flow: number, headFrom: number, headTo: number): { loss: number; slope: number } {
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
      const own = curveLoss(link, sign * flow, sign === 1 ? headFrom : headTo, this.model);
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
