import { beforeAll, describe, expect, it } from "vitest";
import { dates, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { findingWords } from "./finding-words.ts";
import { type Reckoning, reckon } from "./reckon.ts";
import type { Log } from "./stretches.ts";

/* Nights of the real, noisy bench. What the trials print for a hundred sites (npm run bench) is asked here of a few. */

const SEED = 1;
const { ground, known } = reckonedSite(SEED, 12);
const night = (n: number, faults: unknown[] = []): Log =>
  nightLog(ground, dates("2026-07-01", n + 1)[n] as string, faults, 50 + n);
const reckoned = (logs: Log[], site: SiteFile = known): Reckoning => reckon(waterworks(site), logs) as Reckoning;
const outlet = (id: string, size: number): unknown => ({ kind: "brokenOutlet", subjectId: id, at: "00:00:00", size });

describe("nights without a fault", () => {
  let three: Reckoning;
  beforeAll(() => {
    three = reckoned([night(0), night(1), night(2)]);
  });
  it("name nothing, whatever the supply does meanwhile", () => {
    expect(three.found).toEqual([]);
    expect(three.nights).toBe(3);
  });
  it("make every figure that they see surer, and no worse than it was", () => {
    const off = (lpm: (s: Reckoning["stations"][number]) => number): number =>
      Math.sqrt(
        three.stations.reduce(
          (sum, s, i) => sum + (lpm(s) / (ground.stations[i]?.enteredFlowLpm as number) - 1) ** 2,
          0,
        ),
      );
    expect(off((s) => s.nowLpm as number)).toBeLessThan(off((s) => s.expectedLpm as number));
    for (const s of three.stations) {
      expect(s.seenAlone + s.seenInSets).toBeGreaterThan(0);
      expect(s.sdLpm as number).toBeLessThan(0.015 * (s.expectedLpm as number));
    }
  });
  it("are reckoned alike in whatever order their logs are given", () => {
    expect(reckoned([night(2), night(0), night(1)])).toEqual(three);
  });
});

describe("an outlet that broke", () => {
  it("is named the first morning, with its size, since when, and what it let away", () => {
    const { found } = reckoned([night(0, [outlet("s3", 20)])]);
    expect(found).toHaveLength(1);
    const [one] = found;
    expect(one).toMatchObject({ kind: "step", subjectIds: ["s3"], certain: true, named: "2026-07-01" });
    expect(Math.abs((one?.changeLpm as number) - 20)).toBeLessThan(3 * (one?.sdLpm as number));
    expect(one?.since.slice(0, 10)).toBe("2026-07-01");
    expect(one?.litres).toBeGreaterThan(100);
    expect(findingWords(known, one as NonNullable<typeof one>)).toMatch(
      /^4 S4: \d+(\.\d)? L\/min ± .* more since 2026-07-01/,
    );
  });
  it("is told from one before: of two, each is named beside the other, each since its own night", () => {
    const { found } = reckoned([night(0, [outlet("s3", 20)]), night(1, [outlet("s3", 20), outlet("s9", 25)])]);
    expect(found.map((f) => [f.subjectIds, f.certain, f.since.slice(0, 10)])).toEqual(
      expect.arrayContaining([
        [["s3"], true, "2026-07-01"],
        [["s9"], true, "2026-07-02"],
      ]),
    );
    expect(found).toHaveLength(2);
  });
  it("is no certain one where its figure is the design's only", () => {
    const design = structuredClone(known);
    const s = design.stations[3];
    if (!s) throw new Error("no station");
    s.designFlowLpm = s.learned?.meanLpm ?? 0;
    for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const { found } = reckoned([night(0, [outlet("s3", 45)])], design);
    expect(found.filter((f) => f.certain)).toEqual([]);
  });
});

describe("a station without any figure", () => {
  it("is found out by its sets, and nobody beside it is blamed", () => {
    const without = structuredClone(known);
    const s = without.stations[3];
    if (!s) throw new Error("no station");
    for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const { found, stations } = reckoned([night(0)], without);
    expect(found.filter((f) => f.certain)).toEqual([]);
    expect(stations[3]).toMatchObject({ expectedLpm: null });
    expect(Math.abs((stations[3]?.nowLpm as number) - 128)).toBeLessThan(4 * (stations[3]?.sdLpm as number));
  });
});

describe("what is cancelled", () => {
  it("ends at once with nothing", () => {
    expect(reckon(waterworks(known), [night(0)], () => false)).toBeNull();
  });
});
