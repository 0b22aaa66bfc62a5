import { describe, expect, it } from "vitest";
import { flowMoments, planOf, playNight } from "@/core/dispatch/plan";
import { waterworks } from "@/core/network/waterworks";
import type { SiteFile } from "@/core/site-file/schema";
import { smallSite } from "@/testing/small-site";
import { braidOf, whyThen } from "./braid-data";

const DATE = "2026-07-14";
function night(site: SiteFile) {
  const w = waterworks(site);
  const played = playNight(w, DATE);
  const plan = planOf(w, played);
  return { plan, braid: braidOf(site, plan.runs, flowMoments(w, played, [...played.runs]), DATE) };
}

describe("what the braid shows", () => {
  it("one ribbon a run, its area its litres, between banks that say what binds", () => {
    const { braid } = night(smallSite());
    const [main] = braid?.mains ?? [];
    expect(main).toMatchObject({ name: "Main", ceilingLpm: 150, limited: true, bank: "a ceiling entered by hand" });
    expect(main?.ribbons.reduce((sum, r) => sum + (r.width * (r.to - r.from)) / 60, 0)).toBeCloseTo(2500, 6);
    expect(braid?.pocs[0]?.steps.map((s) => Math.round(s.lpm))).toEqual([150, 100, 0]);
  });
  it("a main carries the runs of the main it feeds, as not its own", () => {
    const { braid } = night(
      smallSite((s) => {
        s.mainlines.push({ id: "below", name: "Below", feedIds: ["main"], pipes: [] });
        (s.stations[2] as { mainlineId: string }).mainlineId = "below";
      }),
    );
    expect(braid?.mains.map((m) => m.ribbons.map((r) => [r.run.stationId, r.own]))).toEqual([
      [
        ["s1", true],
        ["s3", false],
        ["s2", true],
      ],
      [["s3", true]],
    ]);
  });
  it("says why a run started when it did", () => {
    const site = smallSite();
    const { plan } = night(site);
    expect(plan.runs.map((r) => whyThen(site, r))).toEqual([
      "opened as soon as its turn came",
      "opened as soon as its turn came",
      "waited 10 min: ceiling of Main",
    ]);
  });
  it("closed hours are where no program that runs may water", () => {
    const { braid } = night(
      smallSite((s) => {
        for (const p of s.programs) p.windows = [{ from: "21:30", to: "23:00" }];
      }),
    );
    expect(braid?.closed).toHaveLength(2);
    expect(
      night(
        smallSite((s) => {
          s.programs = [];
        }),
      ).braid,
    ).toBeNull();
  });
});
