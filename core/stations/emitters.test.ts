import { describe, expect, it } from "vitest";
import { cycleAid, emitterFlowLpm, minutesForDepth, precipitationMmH, TYPICAL_EMITTERS } from "./emitters.ts";

describe("what a station puts on", () => {
  it("60 L/min on 100 m² is 36 mm/h: 10 mm in 16.7 min", () => {
    expect(precipitationMmH(60, 100)).toBe(36);
    expect(minutesForDepth(10, 36)).toBeCloseTo(16.667, 3);
    expect([precipitationMmH(undefined, 100), precipitationMmH(60, undefined), precipitationMmH(60, 0)]).toEqual([
      null,
      null,
      null,
    ]);
  });
  it("an outlet gives twice at four times the pressure", () => {
    for (const kind of TYPICAL_EMITTERS) {
      expect(emitterFlowLpm(kind, kind.atKpa)).toBe(kind.lpmEach);
      expect(emitterFlowLpm(kind, 4 * kind.atKpa)).toBeCloseTo(2 * kind.lpmEach, 12);
    }
  });
  it("cycles are short on clay slopes, longer on flat loam, and not needed on sand under a rotor", () => {
    expect(cycleAid(12, "sand", 2)).toEqual({ needed: false });
    const clay = cycleAid(40, "clay", 10);
    const loam = cycleAid(40, "loam", 2);
    if (!clay.needed || !loam.needed) throw new Error("both need cycles");
    expect(clay.longestMin).toBe(8);
    expect(clay.soakMin).toBe(100);
    expect(loam.longestMin).toBeGreaterThan(clay.longestMin);
    // What stands at the end of a cycle is taken in by the end of its soak.
    expect((clay.longestMin / 60) * (40 - clay.intakeMmH)).toBeLessThanOrEqual((clay.soakMin / 60) * clay.intakeMmH);
  });
});
