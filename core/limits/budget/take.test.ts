import { describe, expect, it } from "vitest";
import { smallSite } from "../../../testing/small-site.ts";
import { withLimitsOf } from "./take.ts";

describe("limits taken from another state of a site", () => {
  it("come with what is no more of its own, and leave everything else, pieces that came since among it", () => {
    const mine = smallSite((s) => {
      Object.assign(s.stations[0] as object, { highPercent: 40, name: "Renamed" });
      Object.assign(s.mainlines[0] as object, { policy: { persistenceS: 90 } });
      s.stations.push({ ...(s.stations[2] as (typeof s.stations)[number]), id: "s4", number: 4, lowPercent: 12 });
    });
    const from = smallSite((s) => {
      s.policy.highPercent = 9;
      Object.assign(s.stations[1] as object, { lowPercent: 6 });
      Object.assign(s.mainlines[0] as object, { holdOffS: 45 });
      Object.assign(s.pocs[0] as object, { policy: { highPercent: 11 } });
    });
    const taken = withLimitsOf(mine, from);
    expect(taken.policy.highPercent).toBe(9);
    expect(taken.stations.map((s) => [s.name, s.highPercent, s.lowPercent])).toEqual([
      ["Renamed", undefined, undefined],
      ["S2", undefined, 6],
      ["S3", undefined, undefined],
      ["S3", undefined, 12],
    ]);
    expect(taken.mainlines[0]).not.toHaveProperty("policy");
    expect([taken.mainlines[0]?.holdOffS, taken.pocs[0]?.policy]).toEqual([45, { highPercent: 11 }]);
  });
});
