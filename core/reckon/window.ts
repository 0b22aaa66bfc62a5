import { nth } from "../checked.ts";
import { at, cholesky, forward, type Matrix, times } from "./matrix.ts";
import type { NightSays } from "./model.ts";

/** What was not read for so long had been shut meanwhile, s. */
const OPENS_ANEW_S = 300;

/** What is known of the state before any of the nights: each unknown by itself. */
export type Known = { mean: Float64Array; variance: Float64Array };

/**
 * How a change lies over the nights of a window. A step is there from a night on, a ramp grows night by night up to the last; what is different before (a figure that was
 * taken, a repair) is there until a night: the state means what is now.
 */
export type Shape = "step" | "ramp" | "before";
/** A change of one unknown at a night of the window; `onset`: a step that began in the middle of that night, with so many of its readings before it. */
export type Change = { unknown: number; from: number; shape: Shape; onset?: number };
/**
 * Where in a night a change may begin: with so many of its readings before it; where the reading of one set jumps, where what has changed opens anew, or while it runs on and others open
 * or shut beside it.
 */
export type Onset = { at: number; how: "jump" | "opening" | "running" };
export type Judged = Change & { z: number; size: number; sd: number };

/** How much of a change there is on a night of so many. */
export function weightOf({ from, shape }: Omit<Change, "unknown">, night: number, nights: number): number {
  if (shape === "before") return night < from ? 1 : 0;
  if (night < from) return 0;
  return shape === "step" ? 1 : (night - from + 1) / (nights - from);
}

/** Of one unknown's change on each night by itself: aᵀC⁻¹r, aᵀC⁻¹a' of every two nights, and L⁻¹ Sᵀ Λ a. */
type Nightly = { b: Float64Array; own: Matrix; folded: Float64Array[]; within: Within | null };
/** A change in the middle of a night: L⁻¹a of that night, and Hᵀ R⁻¹ a. */
type Within = { night: number; whitened: Float64Array; onState: Float64Array };
/** A change put together from its nights. */
type Column = {
  unknown: number;
  weights: Float64Array;
  folded: Float64Array;
  own: number;
  b: number;
  within: Within | null;
};
/** Some changes that are taken as true whatever their sizes. */
type Held = { columns: Column[]; root: Matrix; b: Float64Array };

/**
 * Some nights together, against what was known before them: how well each change explains what they say (generalised likelihood ratio). With a change a of the readings, their
 * covariance C and what they differ by r, its size is aᵀC⁻¹r ÷ aᵀC⁻¹a and z is aᵀC⁻¹r ÷ √(aᵀC⁻¹a); C holds how unsure the state was (handbook#12-last-night).
 */
export class Window {
  private readonly n: number;
  private readonly nights: readonly NightSays[];
  private readonly before: Known;
  /** Places of the state with any variance, and their standard deviations S. */
  private readonly places: number[];
  private readonly sd: Float64Array;
  /** Cholesky's triangle L of I + S Λ S. */
  private readonly m: Matrix;
  /** By night: η − Λ x. */
  private readonly news: Float64Array[];
  /** L⁻¹ Sᵀ u of all nights. */
  private readonly all: Float64Array;
  private readonly nightly = new Map<number, Nightly>();
  private readonly inNight = new Map<string, Nightly>();

  constructor(before: Known, nights: readonly NightSays[]) {
    const n = before.mean.length;
    this.n = n;
    this.before = before;
    this.nights = nights;
    this.places = [...before.variance.keys()].filter((i) => (before.variance[i] as number) > 0);
    this.sd = Float64Array.from(this.places, (p) => Math.sqrt(before.variance[p] as number));
    const sum = new Float64Array(n * n);
    const news = new Float64Array(n);
    this.news = nights.map(({ information, evidence }) => {
      const told = times(information, n, n, before.mean);
      for (let i = 0; i < sum.length; i++) sum[i] = (sum[i] as number) + (information[i] as number);
      return told.map((t, i) => (evidence[i] as number) - t);
    });
    for (const night of this.news) for (let i = 0; i < n; i++) news[i] = (news[i] as number) + (night[i] as number);
    this.m = this.inner(sum);
    this.all = this.folded([news])[0] as Float64Array;
  }

  get length(): number {
    return this.nights.length;
  }

  /** Changes of one unknown, each by itself, beside others that are taken as true whatever their sizes. */
  beside(given: readonly Change[]): (unknown: number, shapes: readonly Omit<Change, "unknown">[]) => Judged[] {
    const held = this.held(given);
    const h = held.columns.length;
    return (unknown, shapes) => {
      const acrossOf = (nightly: Nightly): Float64Array[] =>
        held.columns.map((c) => this.acrossNights(unknown, nightly, c));
      const whole = this.nightlyOf({ unknown });
      const acrossWhole = acrossOf(whole);
      return shapes.map((shape) => {
        const change = { ...shape, unknown };
        const nightly = this.nightlyOf(change);
        const across = nightly === whole ? acrossWhole : acrossOf(nightly);
        const weights = this.weights(change);
        const [all, b0] = together(nightly, weights);
        const shared = forward(
          held.root,
          h,
          Float64Array.from(across, (a) => dot(a, weights)),
          1,
        );
        const own = all - dot(shared, shared);
        const b = b0 - dot(shared, held.b);
        // What the others tell as well as this is not told by this.
        const told = own > 1e-6 * Math.max(all, 1e-12) && own > 1e-12;
        return told
          ? { ...change, size: b / own, sd: 1 / Math.sqrt(own), z: b / Math.sqrt(own) }
          : { ...change, size: 0, sd: Number.POSITIVE_INFINITY, z: 0 };
      });
    };
  }

  /**
   * What is known of some unknowns on the last night, after all nights and with these changes, whatever their sizes.
   *
   * @returns mean and standard deviation by unknown
   */
  now(unknowns: readonly number[], changes: readonly Change[]): { mean: number; sd: number }[] {
    const k = this.places.length;
    const held = this.held(changes);
    const h = held.columns.length;
    const sizes = backward(held.root, h, held.b.slice());
    const left = this.all.slice();
    held.columns.forEach((c, i) => {
      for (let j = 0; j < k; j++) left[j] = (left[j] as number) - (sizes[i] as number) * (c.folded[j] as number);
    });
    const place = new Map(this.places.map((p, i) => [p, i]));
    return unknowns.map((unknown) => {
      const i = place.get(unknown);
      // L⁻¹ Sᵀ of this unknown: its covariance with everything that was read.
      const row = new Float64Array(k);
      if (i !== undefined) {
        row[i] = this.sd[i] as number;
        forward(this.m, k, row, 1);
      }
      const moves = held.columns.map((c) => {
        const last = c.unknown === unknown ? (c.weights.at(-1) ?? 0) : 0;
        return last - dot(row, c.folded);
      });
      const spread = forward(held.root, h, Float64Array.from(moves), 1);
      const added = held.columns.reduce(
        (sum, c, j) => sum + (c.unknown === unknown ? (c.weights.at(-1) ?? 0) * (sizes[j] as number) : 0),
        0,
      );
      return {
        mean: (this.before.mean[unknown] as number) + dot(row, left) + added,
        sd: Math.sqrt(dot(row, row) + dot(spread, spread)),
      };
    });
  }

  /** I + S Λ S, as its Cholesky triangle. */
  private inner(information: Matrix): Matrix {
    const [n, k] = [this.n, this.places.length];
    const m = new Float64Array(k * k);
    for (let i = 0; i < k; i++)
      for (let j = 0; j < k; j++)
        m[i * k + j] =
          at(information, n, nth(this.places, i), nth(this.places, j)) *
            (this.sd[i] as number) *
            (this.sd[j] as number) +
          (i === j ? 1 : 0);
    return cholesky(m, k);
  }

  /** L⁻¹ Sᵀ v of some vectors. */
  private folded(vectors: readonly Float64Array[]): Float64Array[] {
    const [k, c] = [this.places.length, vectors.length];
    const s = new Float64Array(k * c);
    for (const [col, v] of vectors.entries())
      for (let i = 0; i < k; i++) s[i * c + col] = (v[nth(this.places, i)] as number) * (this.sd[i] as number);
    forward(this.m, k, s, c);
    return vectors.map((_, col) => Float64Array.from({ length: k }, (_, i) => s[i * c + col] as number));
  }

  private weights(change: Omit<Change, "unknown">): Float64Array {
    return Float64Array.from(this.nights, (_, i) => weightOf(change, i, this.nights.length));
  }

  /** Readings of an unknown in a night that are not its first: in the middle of it a change may begin at each. */
  onsets(unknown: number, night: number): Onset[] {
    const { responses, stretches } = nth(this.nights, night);
    const shown = [...stretches.keys()].filter((i) => responses[i * (this.n + 1) + unknown] !== 0);
    return shown.flatMap((at, k): Onset[] => {
      const now = nth(stretches, at);
      const before = shown.slice(0, k).filter((i) => nth(stretches, i).to <= now.from);
      const last = nth(stretches, before.at(-1) ?? at);
      if (before.length === 0) return [];
      const cut = before.some((i) => nth(stretches, i).to === now.from && nth(stretches, i).point === now.point);
      const opens = now.from - last.to > OPENS_ANEW_S ? "opening" : "running";
      return [{ at, how: cut ? "jump" : opens }];
    });
  }

  private nightlyOf({ unknown, from, onset }: Pick<Change, "unknown" | "onset"> & { from?: number }): Nightly {
    return onset === undefined || from === undefined ? this.eachNight(unknown) : this.within(unknown, from, onset);
  }

  /** The same as {@link eachNight}, with nothing of the change in one night before one of its readings. */
  private within(unknown: number, night: number, onset: number): Nightly {
    const key = `${unknown} ${night} ${onset}`;
    const known = this.inNight.get(key);
    if (known) return known;
    const { n } = this;
    const { responses, root, whitened, stretches } = nth(this.nights, night);
    const [k, width] = [stretches.length, n + 1];
    const change = new Float64Array(k);
    for (let i = onset; i < k; i++) change[i] = responses[i * width + unknown] as number;
    forward(root, k, change, 1);
    const onState = new Float64Array(width);
    for (let i = 0; i < k; i++) {
      const by = change[i] as number;
      if (by !== 0)
        for (let j = 0; j < width; j++) onState[j] = (onState[j] as number) + by * (whitened[i * width + j] as number);
    }
    const told = (onState[n] as number) - dot(onState.subarray(0, n), this.before.mean);
    const whole = this.eachNight(unknown);
    const nights = this.nights.length;
    const mine = this.folded([onState])[0] as Float64Array;
    const folded = whole.folded.map((f, i) => (i === night ? mine : f));
    const b = whole.b.slice();
    b[night] = told - dot(mine, this.all);
    const own = whole.own.slice();
    for (let j = 0; j < nights; j++) {
      const value = (j === night ? dot(change, change) : 0) - dot(mine, nth(folded, j));
      own[night * nights + j] = value;
      own[j * nights + night] = value;
    }
    const made = { b, own, folded, within: { night, whitened: change, onState } };
    this.inNight.set(key, made);
    return made;
  }

  private eachNight(unknown: number): Nightly {
    const known = this.nightly.get(unknown);
    if (known) return known;
    const { n } = this;
    const nights = this.nights.length;
    const folded = this.folded(
      this.nights.map(({ information }) => Float64Array.from({ length: n }, (_, j) => at(information, n, j, unknown))),
    );
    const own = new Float64Array(nights * nights);
    const b = new Float64Array(nights);
    for (let i = 0; i < nights; i++) {
      b[i] = (nth(this.news, i)[unknown] as number) - dot(nth(folded, i), this.all);
      for (let j = 0; j <= i; j++) {
        const alone = i === j ? at(nth(this.nights, i).information, n, unknown, unknown) : 0;
        const value = alone - dot(nth(folded, i), nth(folded, j));
        own[i * nights + j] = value;
        own[j * nights + i] = value;
      }
    }
    const made = { b, own, folded, within: null };
    this.nightly.set(unknown, made);
    return made;
  }

  private column(change: Change): Column {
    const nightly = this.nightlyOf(change);
    const weights = this.weights(change);
    const [own, b] = together(nightly, weights);
    const folded = new Float64Array(this.places.length);
    nightly.folded.forEach((f, i) => {
      const by = weights[i] as number;
      if (by !== 0) for (let j = 0; j < folded.length; j++) folded[j] = (folded[j] as number) + by * (f[j] as number);
    });
    return { unknown: change.unknown, weights, folded, own, b, within: nightly.within };
  }

  /** aᵀ C⁻¹ a' of an unknown's change on each night by itself, and a whole change. */
  private acrossNights(unknown: number, { folded, within }: Nightly, c: Column): Float64Array {
    return Float64Array.from(this.nights, ({ information }, i) => {
      const [mine, other] = [within, c.within].map((x) => (x?.night === i ? x : null));
      let alone = at(information, this.n, unknown, c.unknown);
      if (mine && other) alone = dot(mine.whitened, other.whitened);
      else if (mine) alone = mine.onState[c.unknown] as number;
      else if (other) alone = other.onState[unknown] as number;
      return (c.weights[i] as number) * alone - dot(nth(folded, i), c.folded);
    });
  }

  private held(given: readonly Change[]): Held {
    const columns = given.map((g) => this.column(g));
    const h = columns.length;
    const g = new Float64Array(h * h);
    for (const [i, x] of columns.entries())
      for (const [j, y] of columns.entries())
        g[i * h + j] = dot(this.acrossNights(x.unknown, this.nightlyOf(nth(given, i)), y), x.weights);
    // Two that say the same leave each other free; a trace keeps the root.
    for (let i = 0; i < h; i++) g[i * h + i] = at(g, h, i, i) * (1 + 1e-9) + 1e-12;
    const root = cholesky(g, h);
    const b = forward(
      root,
      h,
      Float64Array.from(columns, (c) => c.b),
      1,
    );
    return { columns, root, b };
  }
}

/** aᵀC⁻¹a and aᵀC⁻¹r of a change put together from its nights. */
function together({ own, b }: Nightly, weights: Float64Array): [number, number] {
  const n = weights.length;
  let [whole, sum] = [0, 0];
  for (let i = 0; i < n; i++) {
    const by = weights[i] as number;
    if (by === 0) continue;
    sum += by * (b[i] as number);
    for (let j = 0; j < n; j++) whole += by * (weights[j] as number) * at(own, n, i, j);
  }
  return [whole, sum];
}

/** L⁻ᵀ v in place. */
function backward(l: Matrix, n: number, v: Float64Array): Float64Array {
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) v[i] = (v[i] as number) - at(l, n, k, i) * (v[k] as number);
    v[i] = (v[i] as number) / at(l, n, i, i);
  }
  return v;
}

function dot(a: Float64Array, b: Float64Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += (a[i] as number) * (b[i] as number);
  return s;
}
