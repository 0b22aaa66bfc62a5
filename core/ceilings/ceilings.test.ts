import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { check } from "../check/check.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { devicesOf } from "../site-file/records.ts";
import { ceilings, deviceRules } from "./ceilings.ts";
import { ruleData } from "./rule-data.ts";

const rules = (device: Device, staticKpa: number | null = null) =>
  deviceRules(device, staticKpa).map((r) => [r.rule, Number(r.lpm.toFixed(2))]);
const codes = (change: (s: SiteFile) => void) =>
  check(smallSite(change)).map((f) => `${f.severity} ${f.code} ${f.path}`);

describe("ceilings", () => {
  it("a meter: continuous in full, 75 % of safe, and a loss of 10 % of static pressure", () => {
    expect(
      rules(
        { id: "m", kind: "meter", continuousMaxLpm: 310, safeMaxLpm: 400, lossKpaAt: { flowLpm: 200, lossKpa: 40 } },
        400,
      ),
    ).toEqual([
      ["meterContinuous", 310],
      ["meterSafe", 300],
      ["meterLoss", 200],
    ]);
    expect(rules({ id: "m", kind: "meter", lossKpaAt: { flowLpm: 200, lossKpa: 40 } })).toEqual([]);
  });
  it("a pump: 115 % of best efficiency if known, else the end of its curve", () => {
    const pump: Device = {
      id: "p",
      kind: "pump",
      curve: [
        { flowLpm: 0, headM: 60 },
        { flowLpm: 260, headM: 30 },
      ],
    };
    expect(rules(pump)).toEqual([["pumpCurveEnd", 260]]);
    expect(rules({ ...pump, bestEfficiencyLpm: 200 })).toEqual([["pumpBestEfficiency", 230]]);
  });
  it("on a tie the first in flow order binds; nothing known limits nothing", () => {
    const site = smallSite((s) => {
      s.pocs[0]?.devices.unshift(
        { id: "m1", kind: "meter", continuousMaxLpm: 200 },
        { id: "b1", kind: "backflow", maxLpm: 200 },
      );
    });
    expect(ceilings(site).find((c) => c.id === "poc")?.boundBy).toEqual({ rule: "meterContinuous", deviceId: "m1" });
    expect(ceilings(site).find((c) => c.id === "src")).toMatchObject({ ceilingLpm: null, boundBy: null });
  });
  it("a ceiling by hand raises only with a reason", () => {
    const site = (reason?: string) =>
      smallSite((s) => {
        Object.assign(s.pocs[0] as object, { ceilingLpm: 1600, ...(reason ? { ceilingReason: reason } : {}) });
      });
    expect(ceilings(site()).find((c) => c.id === "poc")?.ceilingLpm).toBe(1500);
    expect(ceilings(site("tested by the utility")).find((c) => c.id === "poc")).toMatchObject({
      ceilingLpm: 1600,
      boundBy: { rule: "entered" },
    });
    expect(check(site()).some((f) => f.code === "ceilingWithoutReason" && f.severity === "error")).toBe(true);
  });
});

describe("findings", () => {
  it("name what is wrong and where", () => {
    expect(
      codes((s) => {
        (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = 151;
      }),
    ).toContain("error stationAboveCeiling stations[0]");
    expect(
      codes((s) => {
        delete s.stations[0]?.designFlowLpm;
      }),
    ).toContain("error noFlow stations[0]");
    expect(
      codes((s) => {
        (s.stations[1] as { number: number }).number = 1;
      }),
    ).toContain("error duplicateStationNumber stations[1].number");
    expect(
      codes((s) => {
        (s.programs[0] as { days: unknown }).days = { type: "weekdays", days: [] };
      }),
    ).toContain("error noDays programs[0].days");
    expect(
      codes((s) => {
        s.pocs[0]?.devices.shift();
      }),
    ).toContain("warning masterValveMissing pocs[0].devices");
    expect(
      codes((s) => {
        s.mainlines[0]?.pipes.push({
          id: "x",
          kind: "pipe",
          material: "PVC",
          series: "SCH40",
          nominal: "4 in",
          lengthM: 5,
          maxVelocityMs: 1.9,
        });
      }),
    ).toContain("warning velocityWithoutReason mainlines[0].pipes[0].maxVelocityMs");
    expect(
      codes((s) => {
        s.mainlines[0]?.pipes.push({
          id: "x",
          kind: "pipe",
          material: "PVC",
          series: "SCH40",
          nominal: "4 in",
          lengthM: 5,
          maxVelocityMs: 2.2,
          maxVelocityReason: "short",
        });
      }),
    ).toContain("error velocityTooHigh mainlines[0].pipes[0].maxVelocityMs");
    expect(
      codes((s) => {
        s.sources.push({ id: "w", name: "Reuse", kind: "reclaimed" });
        s.pocs[0]?.sourceIds.push("w");
      }),
    ).toContain("warning crossConnection pocs[0].sourceIds");
  });
});

describe("the data behind a figure", () => {
  const said = (site: SiteFile, id: string): string[] => {
    const all = devicesOf(site);
    return (ceilings(site).find((c) => c.id === id)?.rules ?? []).map(
      (r) =>
        `${r.rule}: ${ruleData(
          r.rule,
          all.find((d) => d.id === r.deviceId),
          500,
          "metric",
        )}`,
    );
  };
  it("says what to look up on the sheet", () => {
    const site = smallSite((s) => {
      s.pocs[0]?.devices.push(
        { id: "m", kind: "meter", continuousMaxLpm: 200, safeMaxLpm: 260, lossKpaAt: { flowLpm: 200, lossKpa: 40 } },
        { id: "p", kind: "pump", parallel: 2, bestEfficiencyLpm: 100, curve: [{ flowLpm: 0, headM: 50 }] },
        { id: "r", kind: "pipe", material: "PVC", series: "SCH40", nominal: "2 in", lengthM: 3 },
        { id: "f2", kind: "flowSensor", output: { type: "frequency", kGpm: 1, offsetHz: 0 }, insideDiameterMm: 50 },
      );
      s.sources[0] = { id: "src", name: "S", kind: "municipal", staticPressureKpa: 500, yieldLpm: 400 };
      (s.programs[0] as SiteFile["programs"][number]).id = "prog";
    });
    expect(said(site, "poc")).toEqual([
      "sensorMax: as stated",
      "meterContinuous: data sheet, used in full",
      "meterSafe: 75 % of 260 L/min",
      "meterLoss: 10 % of 500 kPa; it loses 40 kPa at 200 L/min",
      "pumpBestEfficiency: 115 % of 100 L/min, × 2",
      "pipeVelocity: 1.5 m/s in 52.5 mm inside",
      "sensorMax: 6 m/s in 50 mm inside",
    ]);
    expect(said(site, "src")).toEqual(["yield: permitted or tested"]);
  });
});
