import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { basisOf } from "./basis.ts";
import { toLearn } from "./to-learn.ts";

const NOW = "2026-07-14T12:00:00Z";
const learned = (s: SiteFile, station: number, at: string): void => {
  const one = s.stations[station] as Station;
  const basis = basisOf(waterworks(s), one.id);
  one.learned = { meanLpm: 100, sdLpm: 2, at, ...(basis ? { basis } : {}) };
};

describe("what is to be learned where nobody ticks stations", () => {
  it("is what was never learned or is stale, and what can be: all in the one list, the stale in the other", () => {
    const site = smallSite((s) => {
      learned(s, 0, "2026-07-01T12:00:00Z");
      learned(s, 1, "2025-03-01T12:00:00Z");
    });
    const { stale, all, refused } = toLearn(site, ["ctl"], NOW);
    expect([...stale].sort()).toEqual(["s2", "s3"]);
    expect(all).toEqual(["s1", "s2", "s3"]);
    expect(refused).toBe(0);
  });
  it("leaves out what cannot be learned as the site stands, and counts it", () => {
    const site = smallSite((s) => Object.assign(s.stations[0] as object, { lockedOut: true }));
    expect(toLearn(site, ["ctl"], NOW)).toMatchObject({ all: ["s2", "s3"], refused: 1 });
  });
  it("is of the controllers asked for only", () => {
    const site = smallSite((s) => {
      s.controllers.push({ id: "other", name: "Other", powered: "mains" });
      Object.assign(s.stations[2] as object, { controllerId: "other" });
      s.programs[0]?.runs.pop();
    });
    expect(toLearn(site, ["other"], NOW).all).toEqual([]);
    expect(toLearn(site, ["ctl"], NOW).all).toEqual(["s1", "s2"]);
  });
});
