import { describe, expect, it } from "vitest";
import { normal, randomFrom } from "../../bench/random.ts";
import { normalTail } from "./normal-tail.ts";
import { Swing } from "./swing.ts";

describe("the tail of a normal distribution", () => {
  it("is right far out too", () => {
    for (const [z, tail] of [
      [0, 0.5],
      [1, 0.158655254],
      [1.959964, 0.025],
      [4, 3.16712418e-5],
      [6, 9.86587645e-10],
      [-1, 0.841344746],
    ] as const)
      expect(normalTail(z) / tail).toBeCloseTo(1, 5);
  });
});

describe("how far a reading strays", () => {
  const levels = Array.from({ length: 60 }, (_, n) => 0.98 + 0.0003 * n);
  it("says the share of nights as drawing them would, and reaches where drawing does not", () => {
    const swing = new Swing(levels, 0.95, 0.012);
    const random = randomFrom(7);
    const drawn = Array.from(
      { length: 60_000 },
      (_, k) => 0.95 * (levels[k % 60] as number) * (1 + 0.012 * normal(random)),
    );
    for (const limit of [0.92, 0.94, 0.95, 0.97]) {
      const share = drawn.filter((x) => x > limit).length / drawn.length;
      expect(Math.abs(swing.above(limit) - share)).toBeLessThan(0.006);
      expect(swing.under(limit)).toBeCloseTo(1 - swing.above(limit), 9);
    }
    // 1.0 is over five standard deviations off.
    expect(swing.above(1)).toBeGreaterThan(1e-9);
    expect(swing.above(1)).toBeLessThan(1e-4);
    expect(swing.above(1.2)).toBe(0);
    expect(swing.above(0.5)).toBeCloseTo(1, 9);
  });
  it("never trips where it is not judged; of nights that are judged in part, as often as they are", () => {
    const never = new Swing([Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY], 1, 0.01);
    expect([never.above(0.1), never.under(9)]).toEqual([0, 0]);
    const half = new Swing([1, Number.NEGATIVE_INFINITY], 1, 0.01);
    expect(half.above(0.5)).toBeCloseTo(0.5, 9);
    expect(half.under(2)).toBeCloseTo(0.5, 9);
  });
});
