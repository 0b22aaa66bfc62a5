import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { plan } from "./plan.ts";

const bound = (change: (s: SiteFile) => void): number => plan(smallSite(change), "2026-07-14").lowerBoundS;
const only = (s: SiteFile, ids: string[], minutes = 10): void => {
  for (const p of s.programs) Object.assign(p, { runs: ids.map((stationId) => ({ stationId, minutes })) });
};

describe("the bound that no order can beat", () => {
  it("litres ÷ ceiling of the tightest element", () => {
    expect(
      bound((s) => {
        for (const x of s.stations) x.designFlowLpm = 50;
        (s.mainlines[0] as { ceilingLpm?: number }).ceilingLpm = 120;
      }),
    ).toBeCloseTo((3 * 50 * 10 * 60) / 120, 3);
  });
  it("two feeds of one main bound it together", () => {
    expect(
      bound((s) => {
        s.sources = [
          { id: "a", name: "A", kind: "well", yieldLpm: 60 },
          { id: "b", name: "B", kind: "well", yieldLpm: 60 },
        ];
        s.pocs = ["a", "b"].map((id) => ({ id: `p${id}`, name: id, sourceIds: [id], devices: [] }));
        s.mainlines = [{ id: "main", name: "Main", feedIds: ["pa", "pb"], pipes: [] }];
        for (const x of s.stations) x.designFlowLpm = 40;
      }),
    ).toBeCloseTo((3 * 40 * 10 * 60) / 120, 3);
  });
  it("stations that cannot pair add up, and the largest of the rest with the smallest of them", () => {
    expect(
      bound((s) => {
        only(s, ["s1", "s2"]);
      }),
    ).toBe(1200);
    expect(
      bound((s) => {
        (s.stations[2] as { designFlowLpm?: number }).designFlowLpm = 60;
      }),
    ).toBe(1800);
  });
  it("one station's cycles and soaks", () => {
    expect(
      bound((s) => {
        only(s, ["s3"]);
        Object.assign(s.stations[2] as object, { cycle: { count: 2 }, soakMin: 30 });
      }),
    ).toBe(600 + 1800);
  });
  it("station time ÷ number at once", () => {
    expect(
      bound((s) => {
        for (const x of s.stations) x.designFlowLpm = 10;
        for (const p of s.programs) p.maxStationsAtOnce = 2;
      }),
    ).toBe(900);
    expect(
      bound((s) => {
        for (const x of s.stations) x.designFlowLpm = 10;
        s.site.maxStationsAtOnce = 1;
      }),
    ).toBe(1800);
    expect(
      bound((s) => {
        for (const x of s.stations) x.designFlowLpm = 10;
        (s.controllers[0] as { maxStationsAtOnce?: number }).maxStationsAtOnce = 1;
      }),
    ).toBe(1800);
  });
  it("is over delivered work where there are shortfalls, and nothing for an empty night", () => {
    expect(
      bound((s) => {
        for (const p of s.programs) p.windows = [{ from: "22:00", to: "22:10" }];
      }),
    ).toBe(600);
    const empty = plan(
      smallSite((s) => {
        s.programs = [];
      }),
      "2026-07-14",
    );
    expect([empty.finish, empty.makespanS, empty.ratio, empty.lowerBoundS]).toEqual([null, 0, null, 0]);
  });
});

describe("the bound that knows when programs start", () => {
  it("counts the work of a later program from its start", () => {
    const { lowerBoundS, lateStartBoundS } = plan(
      smallSite((s) => {
        const p = s.programs[0] as (typeof s.programs)[number];
        s.programs.push({
          ...p,
          id: "late",
          name: "Late",
          starts: ["23:00"],
          runs: [{ stationId: "s1", minutes: 10 }],
        });
      }),
      "2026-07-14",
    );
    expect([lowerBoundS, lateStartBoundS]).toEqual([1800, 3600 + 600]);
  });
  it("is the plain one where all start together", () => {
    const p = plan(smallSite(), "2026-07-14");
    expect(p.lateStartBoundS).toBe(p.lowerBoundS);
  });
});

describe("peaks", () => {
  it("name each element's largest flow and its first second", () => {
    const { peaks } = plan(smallSite(), "2026-07-14");
    expect(peaks.find((p) => p.id === "main")).toEqual({
      id: "main",
      lpm: expect.closeTo(150, 6),
      ceilingLpm: 150,
      at: "2026-07-14T22:00:00+02:00",
    });
    expect(peaks.find((p) => p.id === "src")?.ceilingLpm).toBeNull();
  });
});
