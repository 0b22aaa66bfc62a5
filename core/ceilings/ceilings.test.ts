import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { check } from "../check/check.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import { ceilings, deviceRules } from "./ceilings.ts";

const rules = (device: Device, staticKpa: number | null = null) => deviceRules(device, staticKpa).map((r) => [r.rule, Number(r.lpm.toFixed(2))]);
const codes = (change: (s: SiteFile) => void) => check(smallSite(change)).map((f) => `${f.severity} ${f.code} ${f.path}`);

describe("ceilings", () => {
  it("a meter: continuous in full, 75 % of safe, and a loss of 10 % of static pressure", () => {
    expect(rules({ id: "m", kind: "meter", continuousMaxLpm: 310, safeMaxLpm: 400, lossKpaAt: { flowLpm: 200, lossKpa: 40 } }, 400)).toEqual([["meterContinuous", 310], ["meterSafe", 300], ["meterLoss", 200]]);
    expect(rules({ id: "m", kind: "meter", lossKpaAt: { flowLpm: 200, lossKpa: 40 } })).toEqual([]);
  });
  it("a pump: 115 % of best efficiency if known, else the end of its curve", () => {
    const pump: Device = { id: "p", kind: "pump", curve: [{ flowLpm: 0, headM: 60 }, { flowLpm: 260, headM: 30 }] };
    expect(rules(pump)).toEqual([["pumpCurveEnd", 260]]);
    expect(rules({ ...pump, bestEfficiencyLpm: 200 })).toEqual([["pumpBestEfficiency", 230]]);
  });
  it("on a tie the first in flow order binds; nothing known limits nothing", () => {
    const site = smallSite((s) => { s.pocs[0]?.devices.unshift({ id: "m1", kind: "meter", continuousMaxLpm: 200 }, { id: "b1", kind: "backflow", maxLpm: 200 }); });
    expect(ceilings(site).find((c) => c.id === "poc")?.boundBy).toEqual({ rule: "meterContinuous", deviceId: "m1" });
    expect(ceilings(site).find((c) => c.id === "src")).toMatchObject({ ceilingLpm: null, boundBy: null });
  });
  it("a ceiling by hand raises only with a reason", () => {
    const site = (reason?: string) => smallSite((s) => { Object.assign(s.pocs[0] as object, { ceilingLpm: 1600, ...(reason ? { ceilingReason: reason } : {}) }); });
    expect(ceilings(site()).find((c) => c.id === "poc")?.ceilingLpm).toBe(1500);
    expect(ceilings(site("tested by the utility")).find((c) => c.id === "poc")).toMatchObject({ ceilingLpm: 1600, boundBy: { rule: "entered" } });
    expect(check(site()).some((f) => f.code === "ceilingWithoutReason" && f.severity === "error")).toBe(true);
  });
});

describe("findings", () => {
  it("name what is wrong and where", () => {
    expect(codes((s) => { (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = 151; })).toContain("error stationAboveCeiling stations[0]");
    expect(codes((s) => { (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = undefined; })).toContain("error noFlow stations[0]");
    expect(codes((s) => { (s.stations[1] as { number: number }).number = 1; })).toContain("error duplicateStationNumber stations[1].number");
    expect(codes((s) => { (s.programs[0] as { days: unknown }).days = { type: "weekdays", days: [] }; })).toContain("error noDays programs[0].days");
    expect(codes((s) => { s.pocs[0]?.devices.shift(); })).toContain("warning masterValveMissing pocs[0].devices");
    expect(codes((s) => { s.mainlines[0]?.pipes.push({ id: "x", kind: "pipe", material: "PVC", series: "SCH40", nominal: "4 in", lengthM: 5, maxVelocityMs: 1.9 }); })).toContain("warning velocityWithoutReason mainlines[0].pipes[0].maxVelocityMs");
    expect(codes((s) => { s.mainlines[0]?.pipes.push({ id: "x", kind: "pipe", material: "PVC", series: "SCH40", nominal: "4 in", lengthM: 5, maxVelocityMs: 2.2, maxVelocityReason: "short" }); })).toContain("error velocityTooHigh mainlines[0].pipes[0].maxVelocityMs");
    expect(codes((s) => { s.sources.push({ id: "w", name: "Reuse", kind: "reclaimed" }); s.pocs[0]?.sourceIds.push("w"); })).toContain("warning crossConnection pocs[0].sourceIds");
  });
});
