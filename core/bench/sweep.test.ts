import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Policy } from "../site-file/schema.ts";
import { type SweepCell, SWEPT_ON_MAINS, SWEPT_ON_STATIONS, sweepFaults, worstGaps } from "./sweep.ts";

const DATE = "2026-07-14";

describe("a fault sweep", () => {
  const site = smallSite();
  const policies = [
    { name: "as it stands", policy: site.policy },
    { name: "tells", policy: { ...site.policy, highResponse: "notify", lowResponse: "notify" } as Policy },
    { name: "wide", policy: { ...site.policy, highPercent: 300, lowPercent: 99 } },
  ];
  const cells = sweepFaults(site, { date: DATE, kinds: SWEPT_ON_STATIONS, policies }) as SweepCell[];
  const of = (stationId: string, kind: string, policy: string): SweepCell | undefined =>
    cells.find((c) => c.subjectId === stationId && c.kind === kind && c.policy === policy);
  it("has a cell for every station, fault and policy, and nothing healthy is shut off", () => {
    expect(cells.length).toBe(3 * 5 * 3);
    expect(cells.filter((c) => c.outcome === "wrong")).toEqual([]);
  });
  it("a lateral is found in good time, told where only told, missed where nothing sees it", () => {
    expect(of("s1", "brokenLateral", "as it stands")).toMatchObject({ outcome: "found", seconds: expect.any(Number) });
    expect(of("s1", "brokenLateral", "tells")).toMatchObject({ outcome: "told", seconds: null });
    expect(of("s1", "brokenLateral", "wide")).toMatchObject({ outcome: "missed", seconds: null, lostL: 600 });
    expect(of("s1", "brokenLateral", "as it stands")?.lostL).toBeLessThan(300);
  });
  it("a valve that never opens is found by the low limit; one stuck open is the main's", () => {
    expect(of("s1", "stuckClosed", "as it stands")?.outcome).toBe("found");
    expect(["found", "late", "told"]).toContain(of("s1", "stuckOpen", "as it stands")?.outcome);
    expect(of("s2", "stuckOpen", "as it stands")).toMatchObject({ outcome: "missed", lostL: 0 });
  });
  it("the worst gaps are those that lose most water", () => {
    const gaps = worstGaps(cells, 5);
    expect(gaps[0]?.outcome).not.toBe("found");
    for (let i = 1; i < gaps.length; i++)
      expect((gaps[i - 1] as SweepCell).lostL).toBeGreaterThanOrEqual((gaps[i] as SweepCell).lostL);
  });
  it("mains, supplies and sensors: shut off or named, and no station is ever to blame", () => {
    const mains = sweepFaults(site, {
      date: DATE,
      kinds: SWEPT_ON_MAINS,
      policies: policies.slice(0, 1),
    }) as SweepCell[];
    expect(mains.map((c) => [c.kind, c.subjectId, c.outcome, c.wrongly])).toEqual(
      [
        ["supplyClosed", "poc", "found", []],
        ["mainlineBreak", "main", "found", []],
        ["sensorDead", "fs", "told", []],
        ["wrongK", "fs", "found", []],
      ].sort((a, b) => mains.findIndex((c) => c.kind === a[0]) - mains.findIndex((c) => c.kind === b[0])),
    );
    expect(mains.find((c) => c.kind === "mainlineBreak")?.lostL).toBeGreaterThan(200);
  });
  it("can be cancelled, and asked for some stations only", () => {
    expect(
      sweepFaults(site, {
        date: DATE,
        kinds: ["brokenLateral"],
        policies: policies.slice(0, 1),
        onSubject: () => false,
      }),
    ).toBeNull();
    expect(
      sweepFaults(site, {
        date: DATE,
        kinds: ["brokenLateral"],
        policies: policies.slice(0, 1),
        subjectIds: ["s3"],
      })?.map((c) => c.subjectId),
    ).toEqual(["s3"]);
  });
});
