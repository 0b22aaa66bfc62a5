import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { nth } from "../checked.ts";
import { cholesky, forward } from "./matrix.ts";
import type { Stretch } from "./stretches.ts";
import { type Change, type Known, weightOf, Window } from "./window.ts";

/* Small problems in which everything is also worked out the long way: all readings of all nights in one vector, with their whole covariance. */

type Night = { rows: number[][]; noise: number[]; read: number[] };
type Problem = { mean: number[]; sd: number[]; nights: Night[] };
const N = 4;
/** Even over its range: doubles of fast-check are nearly all next to nothing. */
const figure = (lo: number, hi: number) =>
  fc.integer({ min: 0, max: 10_000 }).map((i) => lo + ((hi - lo) * i) / 10_000);
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

const known = ({ mean, sd }: Problem): Known => ({
  mean: Float64Array.from(mean),
  variance: Float64Array.from(sd, (x) => x * x),
});
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
  const k = rows.length;
  const responses = Float64Array.from(rows.flatMap((row, n) => [...row, nth(read, n)]));
  const whitened = responses.map((x, at) => x / nth(noise, Math.floor(at / (N + 1))));
  const root = Float64Array.from({ length: k * k }, (_, at) => (at % (k + 1) === 0 ? nth(noise, at / (k + 1)) : 0));
  const stretches = rows.map((_, n) => ({ from: n }) as Stretch);
  return { night: String(i), information, evidence, stretches, responses, root, whitened };
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
const shapeOf = (p: Problem, change: Change): Float64Array =>
  Float64Array.from(
    p.nights.flatMap((n, i) =>
      n.rows.map((row, reading) =>
        i === change.from && reading < (change.onset ?? 0)
          ? 0
          : weightOf(change, i, p.nights.length) * nth(row, change.unknown),
      ),
    ),
  );
const judged = (p: Problem, change: Change, given: Change[]) =>
  new Window(known(p), p.nights.map(says)).beside(given)(change.unknown, [change])[0];
/** A step may begin in the middle of its first night. */
const shapes: fc.Arbitrary<Pick<Change, "shape" | "onset">> = fc.oneof(
  fc.constantFrom({ shape: "step" as const }, { shape: "ramp" as const }, { shape: "before" as const }),
  fc.record({ shape: fc.constant("step" as const), onset: fc.nat(3) }),
);
const inner = (a: Float64Array, b: Float64Array): number => a.reduce((s, x, i) => s + x * nth(b, i), 0);
const relative = (got: number, want: number): void =>
  expect(Math.abs(got - want)).toBeLessThan(1e-5 * (1 + Math.abs(want)));

describe("a window of nights", () => {
  it("tells the size and the z of each change as all readings together do", () => {
    fc.assert(
      fc.property(problem, fc.nat(3), shapes, fc.nat(N - 1), (p, start, shape, unknown) => {
        const from = start % p.nights.length;
        const change: Change = { unknown, from, ...shape };
        const { off, k, root } = whole(p);
        const a = forward(root, k, shapeOf(p, change), 1);
        const r = forward(root, k, Float64Array.from(off), 1);
        const own = inner(a, a);
        fc.pre(own > 1e-3);
        const alone = judged(p, change, []);
        relative(alone?.size ?? Number.NaN, inner(a, r) / own);
        relative(alone?.z ?? Number.NaN, inner(a, r) / Math.sqrt(own));
        relative(alone?.sd ?? Number.NaN, 1 / Math.sqrt(own));
      }),
    );
  });

  it("judges one beside another as the two together do", () => {
    fc.assert(
      fc.property(problem, fc.nat(N - 1), fc.nat(N - 1), shapes, shapes, (p, one, other, first, second) => {
        fc.pre(one !== other);
        const changes: Change[] = [
          { unknown: one, from: 0, ...first },
          { unknown: other, from: 0, ...second },
        ];
        const { off, k, root } = whole(p);
        const [a, b] = changes.map((c) => forward(root, k, shapeOf(p, c), 1)) as [Float64Array, Float64Array];
        const r = forward(root, k, Float64Array.from(off), 1);
        const [aa, ab, bb] = [inner(a, a), inner(a, b), inner(b, b)];
        const apart = aa * bb - ab * ab;
        fc.pre(aa > 1e-2 && bb > 1e-2 && apart > 1e-2 * aa * bb);
        const size = (bb * inner(a, r) - ab * inner(b, r)) / apart;
        relative(judged(p, nth(changes, 0), [nth(changes, 1)])?.size ?? Number.NaN, size);
      }),
    );
  });

  it("tells nothing of what another tells as well", () => {
    const p: Problem = {
      mean: [0, 0, 0, 0],
      sd: [1, 1, 1, 0],
      nights: [{ rows: [[1, 1, 0, 0]], noise: [0.1], read: [9] }],
    };
    const changes: Change[] = [0, 1].map((unknown) => ({ unknown, from: 0, shape: "step" }));
    expect(judged(p, nth(changes, 0), [])?.z).toBeGreaterThan(5);
    expect(judged(p, nth(changes, 0), [nth(changes, 1)])?.z).toBe(0);
  });
});

describe("what is known after the last night", () => {
  it("is what all readings together leave, beside a change of which nothing was known", () => {
    fc.assert(
      fc.property(problem, fc.nat(3), shapes, fc.nat(N - 1), fc.nat(N - 1), (p, start, shape, unknown, asked) => {
        const change: Change = { unknown, from: start % p.nights.length, ...shape };
        // As one more unknown, as good as free.
        const FREE = 1e4;
        const a = shapeOf(p, change);
        const { rows, off } = whole(p);
        const sds = [...p.sd, FREE];
        const wide = rows.map((row, i) => [...row, nth(a, i)]);
        const noise = p.nights.flatMap((n) => n.noise);
        const k = rows.length;
        const c = new Float64Array(k * k);
        for (let i = 0; i < k; i++)
          for (let j = 0; j < k; j++)
            c[i * k + j] =
              nth(wide, i).reduce((s, h, u) => s + h * nth(nth(wide, j), u) * nth(sds, u) ** 2, 0) +
              (i === j ? nth(noise, i) ** 2 : 0);
        const root = cholesky(c, k);
        const last = weightOf(change, p.nights.length - 1, p.nights.length);
        // Of what is asked for: the state, and what the change adds to it on the last night.
        const own = sds.map((sd, u) => ((u === asked ? 1 : 0) + (u === N && asked === unknown ? last : 0)) * sd * sd);
        const covers = forward(
          root,
          k,
          Float64Array.from(wide, (row) => row.reduce((s, h, u) => s + h * nth(own, u), 0)),
          1,
        );
        const told = forward(root, k, Float64Array.from(off), 1);
        const prior = nth(sds, asked) ** 2 + (asked === unknown ? (last * FREE) ** 2 : 0);
        const flat = forward(root, k, a.slice(), 1);
        // Where nothing tells the change it stays free, and there is nothing to compare.
        fc.pre(inner(flat, flat) * FREE ** 2 > 0.99999);
        const [now] = new Window(known(p), p.nights.map(says)).now([asked], [change]);
        const want = nth(p.mean, asked) + inner(covers, told);
        expect(Math.abs((now?.mean ?? Number.NaN) - want)).toBeLessThan(1e-3 * (1 + Math.abs(want)));
        const variance = prior - inner(covers, covers);
        expect(Math.abs((now?.sd ?? Number.NaN) ** 2 - variance)).toBeLessThan(1e-2 * (1 + variance));
      }),
    );
  });
});
