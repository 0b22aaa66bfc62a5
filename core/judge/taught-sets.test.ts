import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { LiveJudge } from "../field/live-judge.ts";
import { setRatio } from "./set-ratio.ts";
import { type TaughtSet, taughtOf, withTaughtSets } from "./taught-sets.ts";

const site = smallSite();
const set = (more: Partial<TaughtSet> = {}): TaughtSet => ({
  stationIds: ["s1", "s3"],
  ratio: 0.9,
  drawn: 0.94,
  partsLpm: 150,
  nights: 4,
  ...more,
});
const learned = smallSite((s) => {
  s.setRatios = [
    { stationIds: ["s3", "s1"], ratio: 0.97, meanLpm: 145.5, sdLpm: 1, partsLpm: 150, at: "2026-05-01T20:00:00Z" },
  ];
});
const ratioIn = (of: typeof site): number =>
  setRatio(
    of,
    of.stations.filter((s) => s.id !== "s2"),
  );

describe("what nights teach of a set", () => {
  it("is what Presa expects of it, whatever the order of its stations", () => {
    expect(ratioIn(withTaughtSets(site, [set()]))).toBe(0.9);
    const judge = (sets: TaughtSet[]) => new LiveJudge(withTaughtSets(site, sets)).band(["s3", "s1"], 1_784_059_200);
    expect(judge([])).toMatchObject({ expectedLpm: 150 });
    expect(judge([set()])).toMatchObject({ expectedLpm: 135, highLpm: 135 * 1.2 });
  });
  it("keeps only what is the set's own once a figure of it was renewed", () => {
    const renewed = smallSite((s) => {
      Object.assign(s.stations[0] as object, { designFlowLpm: 110 });
    });
    expect(taughtOf(renewed, [set()])(["s1", "s3"])).toEqual({ ratio: 0.94, nights: 4 });
  });
  it("goes before what was learned of it once two nights read it; the network's share alone does not", () => {
    expect(ratioIn(withTaughtSets(learned, [set()]))).toBe(0.9);
    for (const nights of [0, 1]) expect(ratioIn(withTaughtSets(learned, [set({ nights })]))).toBe(0.97);
    expect(ratioIn(withTaughtSets(site, [set({ nights: 0 })]))).toBe(0.9);
  });
  it("is nothing where a station is gone or without a figure, and leaves a site without nights as it is", () => {
    expect(taughtOf(site, [set({ stationIds: ["s1", "gone"] })])(["s1", "gone"])).toBeNull();
    expect(taughtOf(site, [set()])(["s1", "s2"])).toBeNull();
    expect(withTaughtSets(site, [])).toBe(site);
    expect(site.setRatios).toBeUndefined();
  });
});
