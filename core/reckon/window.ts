import { nth } from "../checked.ts";
import { at, cholesky, forward, gram, type Matrix, times, transposed } from "./matrix.ts";
import type { NightSays } from "./model.ts";

/** What is known of the state: its mean, and its covariance. */
export type Known = { mean: Float64Array; covariance: Matrix };

/** Places of the state with any variance. */
const unsure = ({ mean, covariance }: Known): number[] =>
  [...mean.keys()].filter((i) => at(covariance, mean.length, i, i) > 0);

/** A Cholesky root of the covariance of those places; a trace of variance keeps it positive where two of them are as good as one. */
function rootOf(known: Known, places: readonly number[]): Matrix {
  const [n, k] = [known.mean.length, places.length];
  const root = new Float64Array(k * k);
  for (let i = 0; i < k; i++)
    for (let j = 0; j < k; j++) root[i * k + j] = at(known.covariance, n, nth(places, i), nth(places, j));
  for (let i = 0; i < k; i++) root[i * k + i] = at(root, k, i, i) * (1 + 1e-9) + 1e-15;
  return cholesky(root, k);
}

/** I + Sᵀ Λ S of a root S, and its Cholesky triangle. */
function inner(root: Matrix, places: readonly number[], information: Matrix, n: number): Matrix {
  const k = places.length;
  const within = new Float64Array(k * k);
  for (let i = 0; i < k; i++)
    for (let j = 0; j < k; j++) within[i * k + j] = at(information, n, nth(places, i), nth(places, j));
  // Λ S, then Sᵀ (Λ S), S lower triangular.
  const right = new Float64Array(k * k);
  for (let i = 0; i < k; i++)
    for (let x = 0; x < k; x++) {
      const f = at(within, k, i, x);
      if (f === 0) continue;
      for (let j = 0; j <= x; j++) right[i * k + j] = at(right, k, i, j) + f * at(root, k, x, j);
    }
  const m = new Float64Array(k * k);
  for (let x = 0; x < k; x++)
    for (let i = 0; i <= x; i++) {
      const f = at(root, k, x, i);
      if (f === 0) continue;
      for (let j = 0; j < k; j++) m[i * k + j] = at(m, k, i, j) + f * at(right, k, x, j);
    }
  for (let i = 0; i < k; i++) m[i * k + i] = at(m, k, i, i) + 1;
  return cholesky(m, k);
}

/** What is known after a night's readings (Kalman's update, in information form). */
export function updated(known: Known, says: Pick<NightSays, "information" | "evidence">): Known {
  const n = known.mean.length;
  const places = unsure(known);
  const k = places.length;
  if (k === 0) return known;
  const root = rootOf(known, places);
  const m = inner(root, places, says.information, n);
  // P⁺ = S M⁻¹ Sᵀ: with Y = L⁻¹ Sᵀ it is Yᵀ Y.
  const y = forward(m, k, transposed(root, k, k), k);
  const after = gram(y, k, k);
  const told = times(says.information, n, n, known.mean);
  const news = Float64Array.from(places, (p) => (says.evidence[p] as number) - (told[p] as number));
  const moved = times(after, k, k, news);
  const mean = known.mean.slice();
  const covariance = new Float64Array(n * n);
  for (let i = 0; i < k; i++) {
    mean[nth(places, i)] = (mean[nth(places, i)] as number) + (moved[i] as number);
    for (let j = 0; j < k; j++) covariance[nth(places, i) * n + nth(places, j)] = at(after, k, i, j);
  }
  return { mean, covariance };
}

/** How a change grows from the night on which it begins: at once, or night by night. */
export type Shape = "step" | "ramp";
/** A change of one unknown from a night of the window on. */
export type Change = { unknown: number; from: number; shape: Shape };
export type Judged = Change & { z: number; size: number; sd: number };

type Column = { b: number; own: number; inner: Float64Array; weights: Float64Array; unknown: number };

/**
 * Some nights together, against what was known before them: how well each change explains what they say (generalised likelihood ratio). With a change a of the readings, their
 * covariance C and what they differ by r, its size is aᵀC⁻¹r ÷ aᵀC⁻¹a and z is aᵀC⁻¹r ÷ √(aᵀC⁻¹a); C holds how unsure the state was.
 */
export class Window {
  private readonly n: number;
  private readonly nights: readonly NightSays[];
  private readonly before: Known;
  private readonly places: number[];
  private readonly root: Matrix;
  private readonly m: Matrix;
  /** By night: η − Λ x. */
  private readonly news: Float64Array[];
  /** L⁻¹ Sᵀ u of all nights. */
  private readonly all: Float64Array;

  constructor(before: Known, nights: readonly NightSays[]) {
    this.n = before.mean.length;
    this.before = before;
    this.nights = nights;
    const { n } = this;
    const sum = new Float64Array(n * n);
    const news = new Float64Array(n);
    this.news = nights.map(({ information, evidence }) => {
      const told = times(information, n, n, before.mean);
      for (let i = 0; i < sum.length; i++) sum[i] = (sum[i] as number) + (information[i] as number);
      return told.map((t, i) => (evidence[i] as number) - t);
    });
    for (const night of this.news) for (let i = 0; i < n; i++) news[i] = (news[i] as number) + (night[i] as number);
    this.places = unsure(before);
    this.root = rootOf(before, this.places);
    this.m = inner(this.root, this.places, sum, n);
    this.all = this.folded(news);
  }

  get length(): number {
    return this.nights.length;
  }

  /** L⁻¹ Sᵀ v. */
  private folded(v: Float64Array): Float64Array {
    const k = this.places.length;
    const s = new Float64Array(k);
    for (let i = 0; i < k; i++) {
      const f = v[nth(this.places, i)] as number;
      if (f !== 0) for (let j = 0; j <= i; j++) s[j] = (s[j] as number) + at(this.root, k, i, j) * f;
    }
    return forward(this.m, k, s, 1);
  }

  private column({ unknown, from, shape }: Change): Column {
    const { n } = this;
    const weights = Float64Array.from(this.nights, (_, i) => weightOf(shape, i, from, this.nights.length));
    const toAll = new Float64Array(n);
    let b = 0;
    let own = 0;
    this.nights.forEach(({ information }, i) => {
      const by = weights[i] as number;
      if (by === 0) return;
      b += by * (nth(this.news, i)[unknown] as number);
      own += by * by * at(information, n, unknown, unknown);
      for (let j = 0; j < n; j++) toAll[j] = (toAll[j] as number) + by * at(information, n, j, unknown);
    });
    const folded = this.folded(toAll);
    return { unknown, weights, inner: folded, own: own - dot(folded, folded), b: b - dot(folded, this.all) };
  }

  /** aᵀ C⁻¹ a' of two changes. */
  private between(x: Column, y: Column): number {
    let sum = 0;
    this.nights.forEach(({ information }, i) => {
      const by = (x.weights[i] as number) * (y.weights[i] as number);
      if (by !== 0) sum += by * at(information, this.n, x.unknown, y.unknown);
    });
    return sum - dot(x.inner, y.inner);
  }

  /** Each of these changes by itself, beside others that are taken as true whatever their sizes. */
  judge(changes: readonly Change[], given: readonly Change[]): Judged[] {
    const held = given.map((g) => this.column(g));
    const h = held.length;
    const g = new Float64Array(h * h);
    for (let i = 0; i < h; i++) for (let j = 0; j < h; j++) g[i * h + j] = this.between(nth(held, i), nth(held, j));
    for (let i = 0; i < h; i++) g[i * h + i] = at(g, h, i, i) * (1 + 1e-9) + 1e-12;
    const l = cholesky(g, h);
    const heldB = forward(
      l,
      h,
      Float64Array.from(held, (c) => c.b),
      1,
    );
    return changes.map((change) => {
      const c = this.column(change);
      const across = forward(
        l,
        h,
        Float64Array.from(held, (x) => this.between(c, x)),
        1,
      );
      const own = c.own - dot(across, across);
      const b = c.b - dot(across, heldB);
      // What the others tell as well as this is not told by this.
      const told = own > 1e-6 * Math.max(c.own, 1e-12) && own > 1e-12;
      return told
        ? { ...change, size: b / own, sd: 1 / Math.sqrt(own), z: b / Math.sqrt(own) }
        : { ...change, size: 0, sd: Number.POSITIVE_INFINITY, z: 0 };
    });
  }

  /** The sizes of these changes all together. */
  sizes(changes: readonly Change[]): { size: number; sd: number }[] {
    return changes.map((c, i) => {
      const [judged] = this.judge(
        [c],
        changes.filter((_, j) => j !== i),
      );
      return { size: judged?.size ?? 0, sd: judged?.sd ?? Number.POSITIVE_INFINITY };
    });
  }

  /** What is known after all these nights. */
  after(): Known {
    return this.nights.reduce(updated, this.before);
  }
}

function weightOf(shape: Shape, i: number, from: number, length: number): number {
  if (i < from) return 0;
  return shape === "step" ? 1 : (i - from + 1) / (length - from);
}

function dot(a: Float64Array, b: Float64Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += (a[i] as number) * (b[i] as number);
  return s;
}
