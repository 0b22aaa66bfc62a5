import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { check } from "../check/check.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { CapacityCalendar } from "./capacity.ts";
import { neverRuns } from "./never-runs.ts";
import { plan } from "./plan.ts";
import { programStarts } from "./queue.ts";

const DATE = "2026-07-14";
const poc = (s: SiteFile) => s.pocs[0] as SiteFile["pocs"][number];
/** Why each station can never run on that night, by its number; null: it can. */
const why = (change: (s: SiteFile) => void, locked: number[] = []): (string | null)[] => {
  const w = waterworks(smallSite(change));
  const starts = programStarts(w, DATE);
  const capacity = new CapacityCalendar(w, DATE);
  return (starts[0]?.entries ?? []).map((e) => neverRuns(w, capacity, starts, e, new Set(locked)));
};
const pump = (minFlowLpm: number): Device => ({
  id: "pump",
  kind: "pump",
  minFlowLpm,
  curve: [
    { flowLpm: 0, headM: 60 },
    { flowLpm: 900, headM: 20 },
  ],
});

describe("what can never run", () => {
  it("is nothing on a site in order", () => {
    expect(why(() => {})).toEqual([null, null, null]);
  });
  it("is what is locked out: the station, its main, or every connection above", () => {
    expect(why(() => {}, [1])).toEqual([null, "lockedOut", null]);
    expect(why((s) => Object.assign(s.mainlines[0] as object, { lockedOut: true }))).toEqual(
      Array(3).fill("lockedOut"),
    );
    expect(why((s) => Object.assign(poc(s), { lockedOut: true }))).toEqual(Array(3).fill("lockedOut"));
  });
  it("has no supply where every source is out of use", () => {
    expect(why((s) => Object.assign(s.sources[0] as object, { enabled: false }))).toEqual(Array(3).fill("noSupply"));
  });
  it("is alone above the ceiling; a hair's breadth is not above", () => {
    expect(why((s) => Object.assign(s.mainlines[0] as object, { ceilingLpm: 99 }))).toEqual([
      "aboveCeiling",
      "aboveCeiling",
      null,
    ]);
    expect(why((s) => Object.assign(s.mainlines[0] as object, { ceilingLpm: 100 }))).toEqual([null, null, null]);
  });
  it("stays under its pump's minimum whatever runs beside it", () => {
    const under = (minFlowLpm: number, atOnce: number) =>
      why((s) => {
        poc(s).devices.unshift(pump(minFlowLpm));
        Object.assign(s.programs[0] as object, { maxStationsAtOnce: atOnce });
      });
    // 50 alone never reaches 90; with one beside it, it does.
    expect(under(90, 1)).toEqual([null, null, "pumpMinimum"]);
    expect(under(90, 2)).toEqual([null, null, null]);
    // 300 are never reached by 250 together; nor 200 under a connection's ceiling of 150.
    expect(under(300, 3)).toEqual(Array(3).fill("pumpMinimum"));
    expect(
      why((s) => {
        poc(s).devices.unshift(pump(200));
        poc(s).ceilingLpm = 150;
      }),
    ).toEqual(Array(3).fill("pumpMinimum"));
  });
  it("counts a station once, and in whichever of its programs there is room", () => {
    // Station 1 is in a second program too: from there it runs beside station 3, from the first it cannot, nor can station 2.
    const two = (atOnce: number) =>
      why((s) => {
        poc(s).devices.unshift(pump(140));
        const first = s.programs[0] as SiteFile["programs"][number];
        Object.assign(first, { maxStationsAtOnce: 1 });
        s.programs.push({
          ...first,
          id: "q",
          name: "Q",
          maxStationsAtOnce: atOnce,
          runs: [{ stationId: "s1", minutes: 5 }],
        });
      });
    expect(two(1)).toEqual(["pumpMinimum", "pumpMinimum", null]);
  });
  it("reckons with what the ceilings let run beside it, and not with what is locked out", () => {
    // 100 and 100 are over the main's 150; 100 and 50 are not: 160 is never reached, though 200 stand beside it.
    const beside = (minFlowLpm: number, locked: number[] = []) =>
      why((s) => {
        poc(s).devices.unshift(pump(minFlowLpm));
      }, locked);
    expect(beside(140)).toEqual([null, null, null]);
    expect(beside(160)).toEqual(Array(3).fill("pumpMinimum"));
    expect(beside(140, [2])).toEqual(["pumpMinimum", "pumpMinimum", "lockedOut"]);
  });
  it("is named by check, and does not hold up the night", () => {
    const site = smallSite((s) => {
      poc(s).devices.unshift(pump(140));
      Object.assign(s.programs[0] as object, { dispatch: "strict" });
      (s.stations[2] as { lockedOut?: boolean }).lockedOut = true;
      s.mainlines.push({ id: "own", name: "Own", feedIds: ["poc"], pipes: [], ceilingLpm: 300 });
      Object.assign(s.stations[1] as object, { mainlineId: "own", designFlowLpm: 200 });
    });
    const night = plan(site, DATE);
    expect(night.runs.map((r) => r.stationId)).toEqual(expect.arrayContaining(["s2"]));
    expect(check(site).filter((f) => f.code === "pumpMinimum").length).toBeLessThanOrEqual(1);
  });
  it("is another matter for a station that does not call the pump, and for one without a figure", () => {
    expect(
      why((s) => {
        poc(s).devices.unshift(pump(90));
        Object.assign(s.programs[0] as object, { maxStationsAtOnce: 1 });
        Object.assign(s.stations[2] as object, { usesPump: false });
      }),
    ).toEqual([null, null, null]);
  });
  it("is short from the start, and holds nothing back", () => {
    const night = plan(
      smallSite((s) => {
        Object.assign(s.mainlines[0] as object, { ceilingLpm: 99 });
      }),
      DATE,
    );
    expect(night.runs.map((r) => r.stationId)).toEqual(["s3"]);
    expect(night.shortfalls.map((x) => [x.stationId, x.minutes])).toEqual([
      ["s1", 10],
      ["s2", 10],
    ]);
  });
});
