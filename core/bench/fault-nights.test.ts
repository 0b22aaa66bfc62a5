import fc from "fast-check";
import { expect, it } from "vitest";
import { brokenRules, faultNight } from "../../testing/fault-nights.ts";

// The thousand of it run in `npm run bench`.
it("random nights with one fault: no wrong lockout, every judged lateral isolated, no pump run dry, the healthy watered", () => {
  fc.assert(
    fc.property(faultNight({ min: 3, max: 14 }), (night) => {
      expect(brokenRules(night)).toEqual([]);
    }),
    { numRuns: 60, seed: 5 },
  );
}, 120_000);
