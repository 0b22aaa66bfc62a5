import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { addressConflicts, sameAddress, scanSerials, wiredThings } from "./addresses.ts";
import { controllerLoad, TYPICAL_MA } from "./load.ts";
import { readingMeaning, thresholds, USUAL_THRESHOLDS, wireState } from "./wire-reading.ts";

const controller = (site: SiteFile) => site.controllers[0] as SiteFile["controllers"][number];
const station = (site: SiteFile, i: number) => site.stations[i] as SiteFile["stations"][number];

describe("addresses", () => {
  it("are the same however they are written on the label", () => {
    for (const [a, b] of [
      ["A-017", "a17"],
      ["012", "12"],
      ["DEC 004.2", "dec4-2"],
    ] as const)
      expect(sameAddress(a, b), `${a} ${b}`).toBe(true);
    expect(sameAddress("12", "21")).toBe(false);
    expect(sameAddress("100", "1")).toBe(false);
  });
  it("used twice on one wire path conflict, on two paths they do not", () => {
    const site = smallSite((s) => {
      controller(s).wirePaths = [
        { id: "w1", name: "North", kind: "twoWire" },
        { id: "w2", name: "South", kind: "twoWire" },
      ];
      Object.assign(station(s, 0), { wirePathId: "w1", address: "7" });
      Object.assign(station(s, 1), { wirePathId: "w2", address: "7" });
    });
    expect(addressConflicts(wiredThings(site))).toEqual([]);
    Object.assign(station(site, 2), { wirePathId: "w1", address: "07" });
    expect(addressConflicts(wiredThings(site))).toMatchObject([
      { code: "addressTwice", first: { id: "s1" }, second: { id: "s3" }, value: "07" },
    ]);
  });
  it("a decoder with several outputs carries several stations, but no output twice", () => {
    const site = smallSite((s) => {
      Object.assign(station(s, 0), { serial: "K00412", address: "1" });
      Object.assign(station(s, 1), { serial: "K00412", address: "2" });
      Object.assign(station(s, 2), { serial: "K00980", address: "1" });
    });
    expect(addressConflicts(wiredThings(site))).toEqual([]);
    station(site, 1).address = "1";
    expect(addressConflicts(wiredThings(site))).toMatchObject([{ code: "serialTwice" }]);
  });
  it("pasted serial numbers go to the tray; what is taken, listed twice or no number is refused with the reason", () => {
    const site = smallSite((s) => {
      station(s, 0).serial = "K00412";
      s.tray = [{ serial: "K00500" }];
    });
    expect(scanSerials(site, "K00600, K00601\nk-00412\tK00500;K00601 hello")).toEqual({
      serials: ["K00600", "K00601"],
      refused: [
        { text: "k-00412", code: "taken", by: "1 S1" },
        { text: "K00500", code: "twice" },
        { text: "K00601", code: "twice" },
        { text: "hello", code: "notASerial" },
      ],
    });
  });
});

describe("the load on a controller", () => {
  it("is its largest coils, as many as may run at once, with master valves and pump relays", () => {
    const site = smallSite((s) => {
      s.stations.forEach((x, i) => {
        x.solenoidMa = 200 + 50 * i;
      });
      (s.programs[0] as { maxStationsAtOnce?: number }).maxStationsAtOnce = 2;
      s.pocs[0]?.devices.push({ id: "pump", kind: "pump", curve: [{ flowLpm: 0, headM: 50 }], relayMa: 120 });
    });
    expect(controllerLoad(site, controller(site))).toMatchObject({
      stationsAtOnce: 2,
      solenoidsMa: 550,
      masterValvesMa: TYPICAL_MA.masterValve,
      pumpRelaysMa: 120,
      totalMa: 550 + TYPICAL_MA.masterValve + 120,
      typical: true,
    });
  });
  it("with several controllers counts only what is wired to it", () => {
    const site = smallSite((s) => {
      s.controllers.push({ id: "other", name: "Other", powered: "mains" });
    });
    expect(controllerLoad(site, controller(site)).masterValvesMa).toBe(0);
    Object.assign(site.pocs[0]?.devices[0] as object, { controllerId: "ctl", solenoidMa: 400 });
    expect(controllerLoad(site, controller(site)).masterValvesMa).toBe(400);
  });
});

describe("wire readings", () => {
  it.each([
    [4, "ac24", "short"],
    [34, "ac24", "good"],
    [120, "ac24", "high"],
    [5000, "ac24", "open"],
    [4, "dcLatching", "good"],
    [1, "dcLatching", "short"],
    [40, "dcLatching", "high"],
  ] as const)("%d Ω on %s is %s", (ohm, coil, meaning) => {
    expect(readingMeaning(ohm, coil, USUAL_THRESHOLDS)).toBe(meaning);
  });
  it("at coil and controller together give the run; thresholds can be changed", () => {
    const reading = (id: string, where: "coil" | "controller", ohm: number, day: number) => ({
      id,
      subjectId: "s1",
      where,
      ohm,
      at: `2026-05-0${day}T08:00:00Z`,
      by: "T",
    });
    const site = smallSite((s) => {
      s.wireReadings = [reading("r1", "coil", 30, 1), reading("r2", "controller", 52, 2)];
    });
    expect(wireState(site, "s1", "ac24")).toMatchObject({ runOhm: 22, runHigh: true, meaning: "good" });
    site.wireThresholds = { runOverOhm: 25, highOverOhm: 50 };
    expect(thresholds(site).openOverOhm).toBe(USUAL_THRESHOLDS.openOverOhm);
    expect(wireState(site, "s1", "ac24")).toMatchObject({ runHigh: false, meaning: "high" });
    expect(wireState(site, "s2", "ac24")).toBeNull();
  });
});
