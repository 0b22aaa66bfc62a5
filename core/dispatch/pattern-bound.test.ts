import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Passing, patternBoundS } from "./pattern-bound.ts";

/** Seconds of the shortest night of a few stations of equal time under a ceiling: the fewest sets that hold them all. */
function fewestSets(flows: readonly number[], ceiling: number): number {
  const all = (1 << flows.length) - 1;
  const fits = Array.from(
    { length: all + 1 },
    (_, set) => flows.reduce((sum, lpm, i) => sum + ((set >> i) & 1 ? lpm : 0), 0) <= ceiling + 1e-9,
  );
  const fewest = Array<number>(all + 1).fill(Number.POSITIVE_INFINITY);
  fewest[0] = 0;
  for (let set = 1; set <= all; set++)
    for (let part = set; part > 0; part = (part - 1) & set)
      if (fits[part]) fewest[set] = Math.min(fewest[set] as number, 1 + (fewest[set ^ part] as number));
  return fewest[all] as number;
}

describe("the bound by sets that fit", () => {
  it("knows that four of 40 under 100 run two at a time", () => {
    const four: Passing[] = Array.from({ length: 4 }, () => ({ lpm: 40, s: 600 }));
    expect(patternBoundS(four, 100)).toBeCloseTo(1200, 3);
  });
  it("is never over the shortest night, and never under litres ÷ ceiling", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 20, max: 100 }), { minLength: 1, maxLength: 8 }), (flows) => {
        const bound = patternBoundS(
          flows.map((lpm) => ({ lpm, s: 60 })),
          100,
        );
        expect(bound).toBeLessThanOrEqual(60 * fewestSets(flows, 100) + 1e-6);
        expect(bound).toBeGreaterThanOrEqual((60 * flows.reduce((a, b) => a + b, 0)) / 100 / (1 + 8 / 128) - 1e-6);
      }),
      { numRuns: 150 },
    );
  });
  it("has nothing to add where many fit, and nothing where nothing passes", () => {
    expect(
      patternBoundS(
        Array.from({ length: 30 }, () => ({ lpm: 10, s: 60 })),
        100,
      ),
    ).toBe(0);
    expect(patternBoundS([], 100)).toBe(0);
    expect(patternBoundS([{ lpm: 0, s: 60 }], 100)).toBe(0);
  });
});
