import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { normal, randomFrom } from "../bench/random.ts";
import { jumpIn, type Read } from "./jump.ts";

/** Noisy readings of 1 % under a supply that swings by 1 % over 12 minutes. */
function readings(seed: number, count: number, s: number, at: number, by: number): Read[] {
  const random = randomFrom(seed);
  return Array.from({ length: count }, (_, i) => {
    const swing = 1 + 0.01 * Math.sin((2 * Math.PI * i * s) / 720 + seed);
    return { s, lpm: (300 + (i >= at ? by : 0)) * swing * (1 + 0.01 * normal(random)) };
  });
}

describe("a jump in what a set reads", () => {
  it("is found to the reading where it is plain", () => {
    const reads = [...Array(20).fill({ s: 5, lpm: 300 }), ...Array(9).fill({ s: 5, lpm: 310 })];
    expect(jumpIn(reads, 20)).toBe(20);
    expect(jumpIn(reads.slice(0, 20), 20)).toBeNull();
  });
  it("is found within a few readings under noise, in rows of one second and of five", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(1, 5), (seed, s) => {
        const found = jumpIn(readings(seed, 600 / s, s, 200 / s, 18), 20);
        expect(Math.abs((found ?? 0) - 200 / s)).toBeLessThanOrEqual(3);
      }),
      { numRuns: 200 },
    );
  });
  it("is neither noise nor the supply's swing", () => {
    const cut = Array.from({ length: 400 }, (_, seed) => jumpIn(readings(seed, 180, 5, 180, 0), 20)).filter(
      (x) => x !== null,
    );
    expect(cut).toEqual([]);
  });
  it("leaves no piece that is too short to be read, and asks for more than a handful of readings", () => {
    const late = [...readings(3, 30, 5, 30, 0), { s: 5, lpm: 400 }, { s: 5, lpm: 400 }];
    expect(jumpIn(late, 20)).toBe(28);
    expect(jumpIn(late, 30)).toBe(26);
    expect(jumpIn(late.slice(0, 3), 5)).toBeNull();
  });
});
