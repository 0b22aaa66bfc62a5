import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { learn, type Learning } from "./learn.ts";
import { isSteady, windowStatistics } from "./steady.ts";

const run = (site: SiteFile, options: Partial<Parameters<typeof learn>[1]> = {}): Learning => {
  const outcome = learn(site, { date: "2026-07-14", exact: true, ...options });
  if (!outcome.ok) throw new Error(outcome.problem.message);
  return outcome.result;
};

describe("learning on the bench", () => {
  it("finds exactly the expected flows when nothing is noisy, 90 s after opening", () => {
    const l = run(smallSite());
    expect(l.results.map((r) => [r.stationId, r.verdict, r.meanLpm, r.sdLpm, r.samples, r.secondsToSteady])).toEqual([["s1", "accepted", 100, 0, 30, 90], ["s2", "accepted", 100, 0, 30, 90], ["s3", "accepted", 50, 0, 30, 90]]);
    expect(l.baseline).toMatchObject([{ flowing: false, measuredLpm: 0, limitLpm: 10 }]);
    expect(l.litres).toBeCloseTo((250 * 90) / 60, 6);
  });
  it("with noise comes within 3 % and says how much it spreads", () => {
    for (const r of run(smallSite(), { exact: false, seed: 9 }).results) {
      expect(r.verdict).toBe("accepted");
      expect(Math.abs(r.meanLpm / (r.stationId === "s3" ? 50 : 100) - 1)).toBeLessThan(0.03);
      expect(r.sdLpm).toBeGreaterThan(0);
    }
  });
  it("refuses with every reason, and nothing silently", () => {
    const l = run(smallSite((s) => {
      Object.assign(s.stations[0] as object, { lockedOut: true, monitored: false });
      s.programs[0]?.runs.splice(1, 1);
    }));
    expect(l.refused).toEqual([{ stationId: "s1", reasons: ["lockedOut", "excluded"] }, { stationId: "s2", reasons: ["noRunTime"] }]);
    expect(l.results.map((r) => r.stationId)).toEqual(["s3"]);
    expect(run(smallSite((s) => { s.pocs[0]?.devices.pop(); })).refused.every((r) => r.reasons.includes("noSensor"))).toBe(true);
  });
  it("does not bake a leak into the figures", () => {
    const l = run(smallSite(), { faults: [{ at: "+0", kind: "mainlineBreak", subjectId: "main", size: 30 }] });
    expect(l.results).toEqual([]);
    expect(l.refused.map((r) => r.reasons)).toEqual([["flowAtRest"], ["flowAtRest"], ["flowAtRest"]]);
  });
  it("no flow and over the ceiling are verdicts, not figures to take", () => {
    const l = run(smallSite(), { faults: [{ at: "+0", kind: "stuckClosed", subjectId: "s1" }, { at: "+0", kind: "brokenLateral", subjectId: "s2", size: 70 }] });
    expect(l.results.map((r) => r.verdict)).toEqual(["noFlow", "overCeiling", "accepted"]);
  });
  it("names a station it does not know", () => { expect(learn(smallSite(), { date: "2026-07-14", stationIds: ["nope"] })).toMatchObject({ ok: false }); });
});

describe("steady", () => {
  it("needs a full window within 3 % in spread and in drift", () => {
    expect(isSteady(windowStatistics(Array(29).fill(100)))).toBe(false);
    expect(isSteady(windowStatistics(Array(30).fill(100)))).toBe(true);
    expect(isSteady(windowStatistics(Array.from({ length: 30 }, (_, i) => 100 + i * 0.2)))).toBe(false);
    expect(isSteady(windowStatistics(Array.from({ length: 30 }, (_, i) => 100 + (i % 2 ? 5 : -5))))).toBe(false);
  });
});
