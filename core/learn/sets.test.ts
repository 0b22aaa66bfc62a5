import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { simulate } from "../bench/simulate.ts";
import { plan } from "../dispatch/plan.ts";
import { setLimits } from "../judge/set-limits.ts";
import { setRatio } from "../judge/set-ratio.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { learn } from "./learn.ts";
import { missingPart, setsOfNight } from "./sets.ts";

const DATE = "2026-07-14";
const AT = "2026-07-01T02:00:00Z";
const withRatio = (ratio: number): SiteFile =>
  smallSite((s) => {
    s.setRatios = [{ stationIds: ["s3", "s1"], ratio, meanLpm: 150 * ratio, sdLpm: 1, partsLpm: 150, at: AT }];
  });

describe("sets", () => {
  it("are those that run together in the plan, the most litres first, with what they cover", () => {
    const site = smallSite();
    expect(setsOfNight(site, plan(site, DATE).runs)).toEqual([
      { stationIds: ["s1", "s3"], seconds: 600, partsLpm: 150, litres: 1500, covered: 1, ratio: null },
    ]);
    const wide = smallSite((s) => {
      (s.mainlines[0] as { ceilingLpm?: number }).ceilingLpm = 250;
      (s.programs[0] as SiteFile["programs"][number]).runs = [
        { stationId: "s1", minutes: 30 },
        { stationId: "s2", minutes: 20 },
        { stationId: "s3", minutes: 5 },
      ];
    });
    expect(
      setsOfNight(wide, plan(wide, DATE).runs).map((s) => [
        s.stationIds.join(" "),
        s.seconds,
        Math.round(s.covered * 100),
      ]),
    ).toEqual([
      ["s1 s2", 900, 75],
      ["s1 s2 s3", 300, 100],
    ]);
    expect(
      setsOfNight(
        smallSite((s) => {
          (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = undefined as never;
          delete (s.stations[0] as { designFlowLpm?: number }).designFlowLpm;
        }),
        plan(site, DATE).runs,
      ),
    ).toEqual([]);
  });
  it("use less together than alone where pressure falls, and the ratio says how much", () => {
    const site = smallSite((s) => {
      Object.assign(s.sources[0] as object, {
        staticPressureKpa: 300,
        pressureDropKpaAt: { flowLpm: 150, dropKpa: 60 },
      });
    });
    const outcome = learn(site, { date: DATE, seed: 2, sets: [["s1", "s3"]] });
    const set = outcome.ok ? outcome.result.sets?.[0] : undefined;
    expect(set).toMatchObject({ stationIds: ["s1", "s3"], verdict: "accepted" });
    expect(set?.ratio).toBeLessThan(0.98);
    expect(set?.ratio).toBeGreaterThan(0.8);
    const alone = outcome.ok
      ? outcome.result.results.filter((r) => r.stationId !== "s2").reduce((sum, r) => sum + r.meanLpm, 0)
      : 0;
    expect(set?.partsLpm).toBeCloseTo(alone, 9);
  });
  it("a ratio is used when judging exactly that set, and no other", () => {
    const site = withRatio(0.9);
    const [s1, s2, s3] = site.stations as [
      SiteFile["stations"][number],
      SiteFile["stations"][number],
      SiteFile["stations"][number],
    ];
    expect([
      setRatio(site, [s1, s3]),
      setRatio(site, [s1, s2]),
      setRatio(site, [s1]),
      setRatio(smallSite(), [s1, s3]),
    ]).toEqual([0.9, 1, 1, 1]);
    expect(setLimits(site.policy, [s1, s3], 10, 0.9)).toMatchObject({
      expectedLpm: 135,
      highLpm: 1.2 * 135 + 10,
      lowLpm: expect.closeTo(0.75 * 135, 9),
    });
    // 150 L/min flow where 100 are expected of the set: over its limit of 120, though right by the sum of the parts.
    const alarms = (s: SiteFile): string[] => {
      const o = simulate(s, { date: DATE, exact: true });
      return o.ok ? o.result.alarms.map((a) => a.kind) : [];
    };
    expect(alarms(smallSite())).toEqual([]);
    expect(alarms(withRatio(0.667)).length).toBeGreaterThan(0);
  });
  it("tell of a part that adds nothing", () => {
    const site = smallSite();
    expect(missingPart(site, { stationIds: ["s1", "s3"], meanLpm: 101, partsLpm: 150 })).toBe("s3");
    expect(missingPart(site, { stationIds: ["s1", "s3"], meanLpm: 141, partsLpm: 150 })).toBeNull();
  });
});
