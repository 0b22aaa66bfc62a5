import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import { stretchesOf, systemIsSensed } from "../limits/stretches.ts";
import type { Device, Mainline, SiteFile } from "../site-file/schema.ts";
import { pocSensing, siteSensors } from "./sensing.ts";
import { waterworks } from "./waterworks.ts";

const sensor = (id: string): Device => ({
  id,
  kind: "flowSensor",
  output: { type: "pulse", litresPerPulse: 1 },
  minLpm: 5,
  maxLpm: 500,
});
/** A connection without a sensor of its own over so many mains, each with one or bare. */
const over = (...mains: ("sensed" | "bare")[]): SiteFile =>
  smallSite((s) => {
    s.pocs[0]?.devices.pop();
    s.mainlines = mains.map(
      (kind, i): Mainline => ({
        id: `m${i}`,
        name: `Main ${i}`,
        feedIds: ["poc"],
        pipes: [],
        ceilingLpm: 150,
        ...(kind === "sensed" ? { devices: [sensor(`fs${i}`)] } : {}),
      }),
    );
    for (const x of s.stations) Object.assign(x, { mainlineId: "m0" });
  });

describe("who sees a connection's flow", () => {
  it("its own sensor, before any on its mains", () => {
    const site = smallSite((s) => {
      Object.assign(s.mainlines[0] as object, { devices: [sensor("below")] });
    });
    expect(pocSensing(waterworks(site), 0)).toMatchObject({ by: "own", sensors: [{ id: "fs" }], mainlines: [] });
  });
  it("the sensors of its mains as a sum, where every one has its own", () => {
    expect(pocSensing(waterworks(over("sensed", "sensed")), 0)).toMatchObject({
      by: "mainlines",
      mainlines: [0, 1],
      sensors: [{ id: "fs0" }, { id: "fs1" }],
    });
  });
  it("only in part where a main is bare, and nobody where all are", () => {
    expect(pocSensing(waterworks(over("sensed", "bare")), 0).by).toBe("part");
    expect(pocSensing(waterworks(over("bare")), 0).by).toBe("none");
  });
  it("not by a main that is fed from elsewhere too: its sensor reads both", () => {
    const site = over("sensed");
    site.pocs.push({ id: "p2", name: "Second", sourceIds: ["src"], devices: [] });
    site.mainlines[0]?.feedIds.push("p2");
    const w = waterworks(site);
    expect([pocSensing(w, 0).by, pocSensing(w, 1).by]).toEqual(["none", "none"]);
  });
  it("every sensor is told with what carries it", () => {
    const site = over("sensed", "sensed");
    site.pocs[0]?.devices.push(sensor("gate"));
    expect(siteSensors(waterworks(site)).map((s) => [s.sensor.id, s.ownerName, s.kind])).toEqual([
      ["gate", "Poc", "poc"],
      ["fs0", "Main 0", "mainline"],
      ["fs1", "Main 1", "mainline"],
    ]);
  });
});

describe("stretches between valve changes", () => {
  const of = (site: SiteFile) => stretchesOf(waterworks(site), plan(site, "2026-07-14").runs);
  it("are what runs together, in order, judged from the end of the longest hold-off", () => {
    const site = smallSite((s) => {
      Object.assign(s.stations[2] as object, { holdOffS: 90 });
    });
    const [first, second] = of(site);
    expect([first?.stations, second?.stations]).toEqual([[0, 2], [1]]);
    expect((first?.judgedFrom ?? 0) - (first?.from ?? 0)).toBe(90);
    expect((second?.judgedFrom ?? 0) - (second?.from ?? 0)).toBe(60);
    expect(second?.from).toBe(first?.to);
  });
  it("a hold-off as long as the stretch leaves nothing to judge", () => {
    const stretches = of(
      smallSite((s) => {
        Object.assign(s.mainlines[0] as object, { holdOffS: 1200 });
      }),
    );
    expect(stretches.every((x) => x.judgedFrom === x.to)).toBe(true);
  });
  it("behind a connection that nobody sees whole nothing is judged", () => {
    const blind = over("sensed", "bare");
    expect(systemIsSensed(waterworks(blind), 0)).toBe(false);
    expect(of(blind).every((x) => x.judgedFrom === x.to)).toBe(true);
    expect(systemIsSensed(waterworks(over("sensed")), 0)).toBe(true);
  });
});
