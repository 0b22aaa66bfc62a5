import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { check } from "./check.ts";
import { pressureFindings } from "./pressure.ts";
import { checkHolds } from "./programs.ts";

const codes = (change: (site: SiteFile) => void) => new Set(check(smallSite(change)).map((f) => f.code));
const poc = (s: SiteFile) => s.pocs[0] as SiteFile["pocs"][number];
const pump = (more: object = {}): Device => ({
  id: "pump",
  kind: "pump",
  minFlowLpm: 20,
  curve: [
    { flowLpm: 0, headM: 60 },
    { flowLpm: 200, headM: 40 },
    { flowLpm: 300, headM: 20 },
  ],
  ...more,
});
const second = (s: SiteFile, more: object): void => {
  s.controllers.push({ id: "c2", name: "Second", powered: "mains", ...more });
  Object.assign(s.stations[2] as object, { controllerId: "c2" });
  (s.programs[0] as SiteFile["programs"][number]).runs.pop();
};

describe("holds", () => {
  it.each(["2026-08-01", "indefinite"])("change of all that is found only what is said of holds: until %s", (until) => {
    for (const site of demoSites()) {
      const held = structuredClone(site);
      held.site.holdUntil = until;
      for (const p of held.programs) p.holdUntil = until;
      const others = (of: SiteFile) => check(of).filter((f) => f.code !== "holdWithoutEnd");
      expect(others(held), site.site.name).toEqual(others(site));
      expect(check(held).filter((f) => f.code === "holdWithoutEnd")).toEqual(checkHolds(held));
      expect(checkHolds(held).length > 0).toBe(until === "indefinite");
    }
  });
});

describe("findings of the waterworks", () => {
  it("a site in order has none that is wrong", () => {
    expect(check(smallSite()).filter((f) => f.severity !== "note")).toEqual([]);
    for (const site of demoSites())
      expect(
        check(site).filter((f) => f.severity === "error" && f.code !== "noFlow"),
        site.site.name,
      ).toEqual([]);
  });
  it.each<[string, (s: SiteFile) => void]>([
    [
      "ceilingWithoutReason",
      (s) => {
        poc(s).devices.push({ id: "m", kind: "meter", continuousMaxLpm: 100 });
        poc(s).ceilingLpm = 200;
      },
    ],
    [
      "masterValveMissing",
      (s) => {
        poc(s).devices = poc(s).devices.slice(1);
      },
    ],
    [
      "openValveOnlyNotifies",
      (s) => {
        (poc(s).devices[0] as { normally: string }).normally = "open";
      },
    ],
    [
      "burstNeverReached",
      (s) => {
        Object.assign(s.sources[0] as object, {
          staticPressureKpa: 400,
          pressureDropKpaAt: { flowLpm: 300, dropKpa: 200 },
        });
        poc(s).burstLimitLpm = 430;
      },
    ],
    [
      "pumpDeadHead",
      (s) => {
        poc(s).devices.unshift(pump());
        (s.stations[0] as { usesMasterValve?: boolean }).usesMasterValve = false;
      },
    ],
    [
      "pumpUnwatched",
      (s) => {
        poc(s).devices = [pump(), poc(s).devices[0] as Device];
      },
    ],
    [
      "pumpRunOut",
      (s) => {
        poc(s).devices.unshift(pump({ bestEfficiencyLpm: 290 }));
      },
    ],
    [
      "pressureAboveRating",
      (s) => {
        Object.assign(s.sources[0] as object, { staticPressureKpa: 1300 });
        s.mainlines[0]?.pipes.push({
          id: "p1",
          kind: "pipe",
          material: "PVC",
          series: "SDR26",
          nominal: "4 in",
          lengthM: 10,
        });
      },
    ],
    [
      "crossConnection",
      (s) => {
        s.sources.push({ id: "r", name: "R", kind: "reclaimed" });
        poc(s).sourceIds.push("r");
      },
    ],
    [
      "sensorSeesPart",
      (s) => {
        s.pocs.push({
          id: "p2",
          name: "P2",
          sourceIds: ["src"],
          devices: [{ id: "mv2", kind: "masterValve", normally: "closed" }],
        });
        s.mainlines[0]?.feedIds.push("p2");
      },
    ],
    [
      "unlinkedWithoutShare",
      (s) => {
        second(s, { unlinked: true });
      },
    ],
    [
      "unlinkedSharesAboveOne",
      (s) => {
        second(s, { unlinkedShare: 0.7 });
        Object.assign(s.controllers[0] as object, { unlinkedShare: 0.4 });
      },
    ],
    [
      "unlinkedHoursOverlap",
      (s) => {
        second(s, { unlinkedHours: [{ from: "22:00", to: "02:00" }] });
        Object.assign(s.controllers[0] as object, { unlinkedHours: [{ days: ["tue"], from: "01:00", to: "03:00" }] });
      },
    ],
    [
      "addressTwice",
      (s) => {
        for (const x of s.stations) x.address = "4";
      },
    ],
    [
      "serialTwice",
      (s) => {
        for (const x of s.stations) x.serial = "K0004";
      },
    ],
    [
      "overCurrent",
      (s) => {
        (s.controllers[0] as { budgetMa?: number }).budgetMa = 500;
      },
    ],
    [
      "acOnBattery",
      (s) => {
        Object.assign(s.controllers[0] as object, { powered: "battery" });
        (s.stations[1] as { coil?: string }).coil = "ac24";
      },
    ],
    [
      "coilUnknown",
      (s) => {
        Object.assign(s.controllers[0] as object, { powered: "battery" });
      },
    ],
    [
      "latchingOnMains",
      (s) => {
        (s.stations[1] as { coil?: string }).coil = "dcLatching";
      },
    ],
    [
      "dayForNight",
      (s) => {
        s.programs.push({ ...(s.programs[0] as SiteFile["programs"][number]), id: "q", starts: ["10:30"] });
      },
    ],
    [
      "watersAtNoon",
      (s) => {
        (s.stations[0] as { emitter?: string }).emitter = "spray";
        (s.programs[0] as SiteFile["programs"][number]).starts = ["12:00"];
      },
    ],
    [
      "windowNeverOpen",
      (s) => {
        Object.assign(s.programs[0] as object, {
          windows: [{ from: "22:00", to: "02:00" }],
          closedHours: [{ from: "20:00", to: "06:00" }],
        });
      },
    ],
    [
      "inTwoPrograms",
      (s) => {
        s.programs.push({ ...(s.programs[0] as SiteFile["programs"][number]), id: "q" });
      },
    ],
    [
      "atOnceIsOne",
      (s) => {
        (s.programs[0] as { maxStationsAtOnce?: number }).maxStationsAtOnce = 1;
      },
    ],
    [
      "overBudget",
      (s) => {
        (s.sources[0] as { monthlyBudgetM3?: number[] }).monthlyBudgetM3 = Array(12).fill(5);
      },
    ],
    [
      "limitNeverReached",
      (s) => {
        Object.assign(s.sources[0] as object, {
          staticPressureKpa: 400,
          pressureDropKpaAt: { flowLpm: 300, dropKpa: 1500 },
        });
        s.policy.highPercent = 60;
      },
    ],
    [
      "limitInsideSpread",
      (s) => {
        (s.stations[1] as { learned?: object }).learned = { meanLpm: 100, sdLpm: 14, at: "2026-05-01T00:00:00Z" };
      },
    ],
    [
      "persistenceLongerThanRun",
      (s) => {
        s.policy.persistenceS = 600;
      },
    ],
    [
      "shortCycleUnwatched",
      (s) => {
        (s.programs[0] as SiteFile["programs"][number]).runs.push({ stationId: "s1", minutes: 1 });
      },
    ],
    [
      "wireReading",
      (s) => {
        s.wireReadings = [{ id: "r1", subjectId: "s1", ohm: 4, at: "2026-05-01T08:00:00Z", by: "T" }];
      },
    ],
  ])("%s", (code, change) => {
    const changed = codes(change);
    expect([...changed]).toContain(code);
    expect(codes(() => {}).has(code)).toBe(false);
  });
  it("are settled by what they ask for", () => {
    expect(
      codes((s) => {
        second(s, { unlinked: true, unlinkedShare: 0.3 });
      }).has("unlinkedWithoutShare"),
    ).toBe(false);
    expect(
      codes((s) => {
        second(s, { unlinked: true, unlinkedHours: [{ from: "03:00", to: "05:00" }] });
      }).has("unlinkedWithoutShare"),
    ).toBe(false);
    expect(
      codes((s) => {
        s.sources.push({ id: "r", name: "R", kind: "reclaimed" });
        poc(s).sourceIds.push("r");
        poc(s).approvedSeparation = "air gap, inspected";
      }).has("crossConnection"),
    ).toBe(false);
  });
  it("one master valve with a sensor on each main it feeds is seen in sum; with one of them bare, only in part", () => {
    const split =
      (bare: boolean) =>
      (s: SiteFile): void => {
        const sensor = poc(s).devices.pop() as Device;
        (s.mainlines[0] as SiteFile["mainlines"][number]).devices = [sensor];
        s.mainlines.push({
          id: "main2",
          name: "Second main",
          feedIds: ["poc"],
          pipes: [],
          ...(bare ? {} : { devices: [{ ...sensor, id: "fs2" }] }),
        });
      };
    for (const code of ["noSensor", "sensorSeesPart"]) expect(codes(split(false)).has(code), code).toBe(false);
    expect(codes(split(true)).has("sensorSeesPart")).toBe(true);
  });
});

describe("findings of pressure", () => {
  const site = (requiredKpa: number) =>
    smallSite((s) => {
      Object.assign(s.sources[0] as object, { staticPressureKpa: 300 });
      s.mainlines[0]?.pipes.push({
        id: "p1",
        kind: "pipe",
        material: "PVC",
        series: "SCH40",
        nominal: "2 in",
        lengthM: 260,
      });
      for (const x of s.stations) x.requiredKpa = requiredKpa;
    });
  it("name a station short alone, and the worst when all run that may", async () => {
    expect((await pressureFindings(site(100))).map((f) => f.code)).toEqual([]);
    expect(new Set((await pressureFindings(site(295))).map((f) => f.code))).toContain("pressureAlone");
    const together = await pressureFindings(site(255));
    expect(together.map((f) => [f.code, f.subjectId])).toEqual([["pressureTogether", "s3"]]);
  });
  it("say where no pressure can be told", async () => {
    expect((await pressureFindings(smallSite())).map((f) => f.code)).toEqual(["pressureUnknown"]);
  });
});
