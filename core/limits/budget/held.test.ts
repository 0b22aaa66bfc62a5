import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CALM, judgeReading } from "../../judge/persistence.ts";
import { heldLevel, type Judging } from "./held.ts";

const readings = fc.array(fc.integer({ min: 80, max: 120 }), { maxLength: 70 }).map((list) => Float32Array.from(list));
const judging: fc.Arbitrary<Judging> = fc.record({
  judge: fc.constantFrom("unbroken" as const, "share" as const, "mean" as const),
  persistenceS: fc.integer({ min: 1, max: 12 }),
  holdOffS: fc.integer({ min: 0, max: 8 }),
  retestWaitS: fc.option(fc.integer({ min: 0, max: 9 })),
});

/** Judged a reading at a time, as a controller does it. */
function trips(list: Float32Array, limit: number, how: Judging): boolean {
  let [state, from, retests] = [CALM, how.holdOffS, how.retestWaitS === null ? 0 : 1];
  for (const [t, reading] of list.entries()) {
    if (t < from) continue;
    const next = judgeReading(state, reading - limit, how);
    state = next.state;
    if (!next.trips) continue;
    if (retests === 0) return true;
    retests--;
    from = t + 1 + (how.retestWaitS ?? 0) + how.holdOffS;
    state = CALM;
  }
  return false;
}

describe("the level that readings hold", () => {
  it("every limit under it trips and none over it does, whatever the school, with a retest and without one", () => {
    fc.assert(
      fc.property(readings, judging, (list, how) => {
        const level = heldLevel(list, how);
        for (let limit = 78.5; limit < 122; limit++) expect(trips(list, limit, how)).toBe(limit < level);
      }),
      { numRuns: 400 },
    );
  });
  it("is nothing where the stretch is too short to be judged", () => {
    const how: Judging = { judge: "unbroken", persistenceS: 60, holdOffS: 60, retestWaitS: null };
    expect(heldLevel(new Float32Array(119).fill(5), how)).toBe(Number.NEGATIVE_INFINITY);
    expect(heldLevel(new Float32Array(120).fill(5), how)).toBe(5);
  });
});
