import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { nth } from "../checked.ts";
import { cholesky, forward, gram, type Matrix } from "./matrix.ts";
import { type Change, type Known, updated, Window } from "./window.ts";

/* Small problems in which everything is also worked out the long way: all readings of all nights in one vector, with their whole covariance. */

type Night = { rows: number[][]; noise: number[]; read: number[] };
type Problem = { mean: number[]; sd: number[]; nights: Night[] };
const N = 4;
const figure = (lo: number, hi: number) => fc.double({ min: lo, max: hi, noNaN: true });
const night = fc.integer({ min: 1, max: 4 }).chain((k) =>
  fc.record({
    rows: fc.array(fc.array(figure(0, 2), { minLength: N, maxLength: N }), { minLength: k, maxLength: k }),
    noise: fc.array(figure(0.2, 2), { minLength: k, maxLength: k }),
    read: fc.array(figure(-10, 10), { minLength: k, maxLength: k }),
  }),
);
const problem: fc.Arbitrary<Problem> = fc.record({
  mean: fc.array(figure(-3, 3), { minLength: N, maxLength: N }),
  // The last one is known, as a change is before it is found.
  sd: fc.array(figure(0.3, 2), { minLength: N - 1, maxLength: N - 1 }).map((sd) => [...sd, 0]),
  nights: fc.array(night, { minLength: 1, maxLength: 4 }),
});

const known = ({ mean, sd }: Problem): Known => {
  const covariance = new Float64Array(N * N);
  sd.forEach((s, i) => {
    covariance[i * N + i] = s * s;
  });
  return { mean: Float64Array.from(mean), covariance };
};
const says = ({ rows, noise, read }: Night, i: number) => {
  const information = new Float64Array(N * N);
  const evidence = new Float64Array(N);
  rows.forEach((row, k) => {
    const weight = 1 / nth(noise, k) ** 2;
    for (let a = 0; a < N; a++) {
      evidence[a] = (evidence[a] as number) + weight * nth(row, a) * nth(read, k);
      for (let b = 0; b < N; b++)
        information[a * N + b] = (information[a * N + b] as number) + weight * nth(row, a) * nth(row, b);
    }
  });
  return { night: String(i), information, evidence, stretches: [] };
};
/** All readings together: what they differ by, and their covariance, the state's uncertainty in it. */
const whole = (p: Problem) => {
  const rows = p.nights.flatMap((n) => n.rows);
  const noise = p.nights.flatMap((n) => n.noise);
  const read = p.nights.flatMap((n) => n.read);
  const k = rows.length;
  const off = read.map((y, i) => y - nth(rows, i).reduce((s, h, j) => s + h * nth(p.mean, j), 0));
  const covariance = new Float64Array(k * k);
  for (let i = 0; i < k; i++)
    for (let j = 0; j < k; j++) {
      const shared = nth(rows, i).reduce((s, h, u) => s + h * nth(nth(rows, j), u) * nth(p.sd, u) ** 2, 0);
      covariance[i * k + j] = shared + (i === j ? nth(noise, i) ** 2 : 0);
    }
  return { rows, off, k, root: cholesky(covariance, k) };
};
const shapeOf = (p: Problem, { unknown, from, shape }: Change): Float64Array =>
  Float64Array.from(
    p.nights.flatMap((n, i) => {
      const ramp = (i - from + 1) / (p.nights.length - from);
      const begun = shape === "step" ? 1 : ramp;
      return n.rows.map((row) => (i < from ? 0 : begun * nth(row, unknown)));
    }),
  );
const inner = (a: Float64Array, b: Float64Array): number => a.reduce((s, x, i) => s + x * nth(b, i), 0);
const relative = (got: number, want: number): void =>
  expect(Math.abs(got - want)).toBeLessThan(1e-5 * (1 + Math.abs(want)));

describe("a window of nights", () => {
  it("tells the size and the z of each change as all readings together do", () => {
    fc.assert(
      fc.property(problem, fc.nat(3), fc.constantFrom("step", "ramp"), fc.nat(N - 1), (p, start, shape, unknown) => {
        const from = start % p.nights.length;
        const change: Change = { unknown, from, shape };
        const { off, k, root } = whole(p);
        const a = forward(root, k, shapeOf(p, change), 1);
        const r = forward(root, k, Float64Array.from(off), 1);
        const own = inner(a, a);
        fc.pre(own > 1e-3);
        const [judged] = new Window(known(p), p.nights.map(says)).judge([change], []);
        relative(judged?.size ?? Number.NaN, inner(a, r) / own);
        relative(judged?.z ?? Number.NaN, inner(a, r) / Math.sqrt(own));
        relative(judged?.sd ?? Number.NaN, 1 / Math.sqrt(own));
      }),
    );
  });

  it("judges one beside another as the two together do", () => {
    fc.assert(
      fc.property(problem, fc.nat(N - 1), fc.nat(N - 1), (p, one, other) => {
        fc.pre(one !== other);
        const changes: Change[] = [one, other].map((unknown) => ({ unknown, from: 0, shape: "step" }));
        const { off, k, root } = whole(p);
        const [a, b] = changes.map((c) => forward(root, k, shapeOf(p, c), 1)) as [Float64Array, Float64Array];
        const r = forward(root, k, Float64Array.from(off), 1);
        const [aa, ab, bb] = [inner(a, a), inner(a, b), inner(b, b)];
        const apart = aa * bb - ab * ab;
        fc.pre(aa > 1e-2 && bb > 1e-2 && apart > 1e-2 * aa * bb);
        const size = (bb * inner(a, r) - ab * inner(b, r)) / apart;
        const [judged] = new Window(known(p), p.nights.map(says)).judge([nth(changes, 0)], [nth(changes, 1)]);
        relative(judged?.size ?? Number.NaN, size);
      }),
    );
  });

  it("tells nothing of what another tells as well", () => {
    const p: Problem = {
      mean: [0, 0, 0, 0],
      sd: [1, 1, 1, 0],
      nights: [{ rows: [[1, 1, 0, 0]], noise: [0.1], read: [9] }],
    };
    const window = new Window(known(p), p.nights.map(says));
    const changes: Change[] = [0, 1].map((unknown) => ({ unknown, from: 0, shape: "step" }));
    expect(window.judge([nth(changes, 0)], [])[0]?.z).toBeGreaterThan(5);
    expect(window.judge([nth(changes, 0)], [nth(changes, 1)])[0]?.z).toBe(0);
  });
});

describe("what is known after a night", () => {
  it("is what all of its readings together leave (Kalman's update), and night by night the same as at once", () => {
    fc.assert(
      fc.property(problem, (p) => {
        const before = known(p);
        const nights = p.nights.map(says);
        const { rows, off, k, root } = whole(p);
        const h: Matrix = Float64Array.from(rows.flat());
        // P Hᵀ C⁻¹ r
        const whitenedH = forward(root, k, h.slice(), N);
        const whitenedR = forward(root, k, Float64Array.from(off), 1);
        const reduced = gram(whitenedH, k, N);
        const after = nights.reduce<Known>(updated, before);
        for (let u = 0; u < N; u++) {
          const variance = nth(p.sd, u) ** 2;
          const moved = variance * columnDot(whitenedH, whitenedR, k, u);
          relative(after.mean[u] as number, nth(p.mean, u) + moved);
          const left = variance - variance * variance * (reduced[u * N + u] as number);
          relative(after.covariance[u * N + u] as number, left);
        }
      }),
    );
  });
});

function columnDot(a: Matrix, v: Float64Array, k: number, u: number): number {
  let s = 0;
  for (let i = 0; i < k; i++) s += (a[i * N + u] as number) * (v[i] as number);
  return s;
}
