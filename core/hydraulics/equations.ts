import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { outletLoss, type Row, rowLoss } from "./link-loss.ts";
import type { HydraulicModel } from "./network-model.ts";
import type { OpenFlows, OpenSet, Outlet } from "./open-set.ts";
import { solveSymmetric } from "./solve-symmetric.ts";

const MOST_ROUNDS = 60;
const CLOSE_ENOUGH = 1e-6;
/** Metres that every junction is first taken to stand above its ground, and the first flow of an outlet: its coefficient times √(25 m). */
const FIRST_HEAD_M = 30;
const FIRST_ROOT = 5;

/** What stands at `i` of a list as long as what it stands for: unchecked, as this is the innermost loop (docs/decisions/0010). */
const at = (list: Float64Array | Int32Array, i: number): number => list[i] as number;

/**
 * The equations of one set of open outlets: heads of junctions and flows of rows, brought into balance by the gradient method (Todini and Pilati 1988). Each round solves
 * the linear network of the last flows for heads, then corrects the flows.
 */
export class Equations {
  private readonly from: Int32Array;
  private readonly to: Int32Array;
  /** Heads at ends that are reservoirs, m. */
  private readonly fixedFrom: Float64Array;
  private readonly fixedTo: Float64Array;
  private readonly head: Float64Array;
  private readonly flow: Float64Array;
  private readonly loss: Float64Array;
  private readonly slope: Float64Array;
  private readonly outAt: Int32Array;
  private readonly outLevel: Float64Array;
  private readonly coefficient: Float64Array;
  private readonly out: Float64Array;
  private readonly outLoss: Float64Array;
  private readonly outSlope: Float64Array;
  private readonly matrix: Float64Array;
  private readonly right: Float64Array;
  private readonly model: HydraulicModel;
  private readonly rows: readonly Row[];

  constructor(
    model: HydraulicModel,
    set: OpenSet,
    rows: readonly Row[],
    outlets: readonly Outlet[],
    reservoir: Uint8Array,
  ) {
    this.model = model;
    this.rows = rows;
    // Junctions get places in the equations; reservoirs have their heads.
    const place = new Map<number, number>();
    for (const r of rows)
      for (const node of [r.from, r.to]) if (reservoir[node] === 0 && !place.has(node)) place.set(node, place.size);
    const n = place.size;
    const level = (node: number): number => model.nodes[node]?.elevationM ?? 0;
    const fixed = (node: number): number => set.headM?.get(node) ?? model.nodes[node]?.headM ?? level(node);
    this.head = new Float64Array(n);
    for (const [node, i] of place) this.head[i] = level(node) + FIRST_HEAD_M;
    this.from = Int32Array.from(rows, (r) => place.get(r.from) ?? -1);
    this.to = Int32Array.from(rows, (r) => place.get(r.to) ?? -1);
    this.fixedFrom = Float64Array.from(rows, (r) => fixed(r.from));
    this.fixedTo = Float64Array.from(rows, (r) => fixed(r.to));
    this.outAt = Int32Array.from(outlets, (o) => place.get(o.node) as number);
    this.outLevel = Float64Array.from(outlets, (o) => level(o.node));
    this.coefficient = Float64Array.from(outlets, (o) => ("lpm" in o ? 0 : o.coefficient));
    this.out = Float64Array.from(outlets, (o) => ("lpm" in o ? o.lpm : o.coefficient * FIRST_ROOT));
    const begin = Math.max(1, this.out.reduce((a, b) => a + b, 0) / 2);
    this.flow = Float64Array.from(rows, (r) => (r.forward ? begin : -begin));
    this.loss = new Float64Array(rows.length);
    this.slope = new Float64Array(rows.length);
    this.outLoss = new Float64Array(outlets.length);
    this.outSlope = new Float64Array(outlets.length);
    this.matrix = new Float64Array(n * n);
    this.right = new Float64Array(n);
  }

  /** Rounds until flows stand still; false when they do not. */
  balance(): boolean {
    for (let round = 0; round < MOST_ROUNDS; round++) {
      this.matrix.fill(0);
      this.right.fill(0);
      for (let i = 0; i < this.rows.length; i++) this.enterRow(i);
      for (let k = 0; k < this.out.length; k++) this.enterOutlet(k);
      solveSymmetric(this.matrix, this.right, this.head.length);
      this.head.set(this.right);
      if (this.correct()) return true;
    }
    return false;
  }

  /** Writes what came out into flows; `places`: of each outlet in the set that was asked for. */
  tell(flows: OpenFlows, places: readonly number[]): void {
    this.rows.forEach((r, i) => {
      for (const { link, sign } of r.parts) flows.linkLpm[link] = sign * at(this.flow, i);
    });
    places.forEach((i, k) => {
      flows.outletLpm[i] = Math.max(0, at(this.out, k));
      flows.outletKpa[i] = (at(this.head, at(this.outAt, k)) - at(this.outLevel, k)) * KPA_PER_METRE_OF_WATER;
    });
  }

  private headFrom(i: number): number {
    const a = at(this.from, i);
    return a < 0 ? at(this.fixedFrom, i) : at(this.head, a);
  }

  private headTo(i: number): number {
    const b = at(this.to, i);
    return b < 0 ? at(this.fixedTo, i) : at(this.head, b);
  }

  /** A row's loss at its last flow, made linear, as its part of the equations. */
  private enterRow(i: number): void {
    const { matrix, right } = this;
    const n = this.head.length;
    const [a, b] = [at(this.from, i), at(this.to, i)];
    const { loss, slope } = rowLoss(
      this.model,
      this.rows[i] as Row,
      at(this.flow, i),
      this.headFrom(i),
      this.headTo(i),
    );
    this.loss[i] = loss;
    this.slope[i] = slope;
    const p = 1 / slope;
    // Flow as it would be with equal heads at both ends.
    const rest = at(this.flow, i) - loss * p;
    if (a >= 0) {
      matrix[a * n + a] = at(matrix, a * n + a) + p;
      right[a] = at(right, a) - rest + (b < 0 ? p * at(this.fixedTo, i) : 0);
    }
    if (b >= 0) {
      matrix[b * n + b] = at(matrix, b * n + b) + p;
      right[b] = at(right, b) + rest + (a < 0 ? p * at(this.fixedFrom, i) : 0);
    }
    if (a >= 0 && b >= 0) {
      matrix[a * n + b] = at(matrix, a * n + b) - p;
      matrix[b * n + a] = at(matrix, b * n + a) - p;
    }
  }

  private enterOutlet(k: number): void {
    const { matrix, right } = this;
    const a = at(this.outAt, k);
    const c = at(this.coefficient, k);
    if (c === 0) {
      right[a] = at(right, a) - at(this.out, k);
      return;
    }
    const { loss, slope } = outletLoss(at(this.out, k), c);
    this.outLoss[k] = loss;
    this.outSlope[k] = slope;
    const p = 1 / slope;
    const own = a * this.head.length + a;
    matrix[own] = at(matrix, own) + p;
    right[a] = at(right, a) - (at(this.out, k) - loss * p) + p * at(this.outLevel, k);
  }

  /** Corrects flows by the new heads; true when they hardly moved. */
  private correct(): boolean {
    let moved = 0;
    let sum = 0;
    for (let i = 0; i < this.rows.length; i++) {
      const step = (this.headFrom(i) - this.headTo(i) - at(this.loss, i)) / at(this.slope, i);
      this.flow[i] = at(this.flow, i) + step;
      moved += Math.abs(step);
      sum += Math.abs(at(this.flow, i));
    }
    for (let k = 0; k < this.out.length; k++) {
      if (at(this.coefficient, k) === 0) continue;
      const above = at(this.head, at(this.outAt, k)) - at(this.outLevel, k);
      const step = (above - at(this.outLoss, k)) / at(this.outSlope, k);
      this.out[k] = at(this.out, k) + step;
      moved += Math.abs(step);
    }
    return moved <= CLOSE_ENOUGH * Math.max(1, sum);
  }
}
