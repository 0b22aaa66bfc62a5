import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Departure, departed, OVER_AFTER_S, type Standing } from "./departure.ts";

const limits = { expectedLpm: 100, lowLpm: 70, highLpm: 130 };
const reads = (measuredLpm: number): Standing => ({ ...limits, measuredLpm });

describe("a departure from the limits", () => {
  it("costs what flows over what was expected, for as long as it is outside", () => {
    let d: Departure | null = null;
    for (let t = 1; t <= 60; t++) d = departed(d, reads(190), t, 1, true, false);
    expect(d).toMatchObject({ from: 0, until: 60, seconds: 60 });
    expect(d?.litres).toBeCloseTo(90, 9);
  });
  it("is under 0 where less flows", () => {
    expect(departed(null, reads(40), 60, 60, true, false)?.litres).toBeCloseTo(-60, 9);
  });
  it("does not begin before hold-off is over, but goes on through it where it was over", () => {
    expect(departed(null, reads(190), 1, 1, false, false)).toBeNull();
    const begun = departed(null, reads(190), 1, 1, true, false);
    expect(departed(begun, reads(190), 2, 1, false, false)?.seconds).toBe(2);
    expect(departed(begun, reads(10), 2, 1, false, false)?.seconds).toBe(1);
  });
  it("stays one through a search, ends a while after it, and is not told where nothing reads", () => {
    const begun = departed(null, reads(190), 10, 1, true, false) as Departure;
    expect(departed(begun, reads(100), 10 + OVER_AFTER_S, 1, true, false)).toBe(begun);
    expect(departed(begun, reads(100), 11 + OVER_AFTER_S, 1, true, true)).toBe(begun);
    expect(departed(begun, reads(100), 11 + OVER_AFTER_S, 1, true, false)).toBeNull();
    expect(departed(null, null, 10, 1, true, false)).toBeNull();
    expect(departed(begun, null, 20, 1, true, false)).toBe(begun);
  });
  it("is the sum over its readings, however they are cut", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: 131, max: 500, noNaN: true }), fc.integer({ min: 1, max: 60 })), {
          minLength: 1,
        }),
        (list) => {
          let d: Departure | null = null;
          let at = 0;
          let litres = 0;
          for (const [lpm, s] of list) {
            at += s;
            litres += ((lpm - limits.expectedLpm) * s) / 60;
            d = departed(d, reads(lpm), at, s, true, false);
          }
          expect(d?.seconds).toBe(at);
          expect(d?.litres).toBeCloseTo(litres, 6);
        },
      ),
    );
  });
});
