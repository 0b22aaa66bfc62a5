import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { type AlarmFact, diagnose } from "./diagnose.ts";
import { CAUSE_WORDS, PATTERN_WORDS } from "./words.ts";

let n = 0;
const alarm = (
  kind: string,
  subjectId: string,
  measuredLpm: number,
  expectedLpm: number,
  more: Partial<AlarmFact> = {},
): AlarmFact => ({
  id: `a${++n}`,
  at: "2026-07-14T23:00:00Z",
  kind,
  subjectId,
  measuredLpm,
  expectedLpm,
  state: "open",
  ...more,
});
const first = (site: SiteFile, alarms: AlarmFact[]): [string | undefined, string | undefined] => {
  const r = diagnose(site, alarms)[0];
  return [r?.pattern, r?.likely[0]?.code];
};

describe("several alarms read together", () => {
  it("all high by one factor is the constant, by one flow a leak of the main", () => {
    const site = smallSite();
    expect(first(site, [alarm("stationHigh", "s1", 130, 100), alarm("stationHigh", "s3", 65, 50)])).toEqual([
      "allHigh",
      "constant",
    ]);
    expect(first(site, [alarm("stationHigh", "s1", 130, 100), alarm("stationHigh", "s3", 80, 50)])).toEqual([
      "allHigh",
      "mainLeak",
    ]);
    expect(first(site, [alarm("mainline", "main", 40, 0)])).toEqual(["allHigh", "mainLeak"]);
    expect(first(site, [alarm("sensor", "fs", 200, 150)])).toEqual(["allHigh", "constant"]);
  });
  it("all low is the supply, its pump where there is one, a half-closed valve where some water comes", () => {
    const site = smallSite();
    expect(first(site, [alarm("supply", "main", 0, 150)])).toEqual(["allLow", "supply"]);
    expect(first(site, [alarm("stationLow", "s1", 60, 100), alarm("stationLow", "s2", 61, 100)])).toEqual([
      "allLow",
      "halfClosedValve",
    ]);
    const pumped = smallSite((s) => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 50 },
          { flowLpm: 300, headM: 30 },
        ],
      });
    });
    expect(first(pumped, [alarm("pumpNoFlow", "pump", 0, 100)])).toEqual(["allLow", "pump"]);
  });
  it("flow while nothing runs: a stuck valve of that flow; behind a shut master valve, that valve", () => {
    expect(first(smallSite(), [alarm("offSchedule", "poc", 52, 0)])).toEqual([
      "flowBehindShutValve",
      "masterValvePasses",
    ]);
    const open = smallSite((s) => {
      ((s.pocs[0] as { devices: Device[] }).devices[0] as { normally: string }).normally = "open";
    });
    expect(diagnose(open, [alarm("offSchedule", "poc", 52, 0)])[0]).toMatchObject({
      pattern: "flowAtRest",
      likely: [{ code: "stuckValve", stationId: "s3" }, {}, {}],
    });
    expect(first(open, [alarm("offSchedule", "poc", 23, 0)])[1]).toBe("leak");
  });
  it("one station: broken; the third time over weeks wear; after a repair its old figure", () => {
    const site = smallSite();
    expect(first(site, [alarm("stationHigh", "s1", 160, 100)])).toEqual(["oneHigh", "lateral"]);
    const weeks = ["2026-06-10T00:00:00Z", "2026-06-25T00:00:00Z"].map((at) =>
      alarm("stationLow", "s2", 60, 100, { at, state: "cleared" }),
    );
    expect(first(site, [...weeks, alarm("stationLow", "s2", 55, 100)])).toEqual(["drift", "wear"]);
    expect(
      first(
        smallSite((s) => {
          (s.stations[1] as { repairedAt?: string }).repairedAt = "2026-07-13T00:00:00Z";
        }),
        [alarm("stationHigh", "s2", 140, 100)],
      ),
    ).toEqual(["afterRepair", "relearn"]);
  });
  it("cleared alarms and other systems do not count together; every code has words", () => {
    const site = smallSite();
    expect(diagnose(site, [alarm("stationHigh", "s1", 130, 100, { state: "cleared" })])).toEqual([]);
    for (const r of diagnose(site, [alarm("stationHigh", "s1", 130, 100), alarm("offSchedule", "poc", 40, 0)])) {
      expect(PATTERN_WORDS[r.pattern]).toBeTruthy();
      for (const l of r.likely) expect(CAUSE_WORDS[l.code].check).toBeTruthy();
    }
  });
});
