import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import type { AlarmKind, AlarmNote } from "./alarm.ts";
import { alarmWords, subjectName } from "./alarm-words.ts";

const site = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.pocs[0]?.devices.push({ id: "gauge", kind: "pressureSensor", name: "Gate gauge" } as Device);
    s.mainlines[0]?.pipes.push({
      id: "run",
      kind: "pipe",
      material: "PVC",
      series: "SCH40",
      nominal: "3 in",
      lengthM: 40,
    });
    change(s);
  });
const words = (kind: AlarmKind, subjectId: string, note?: AlarmNote, units: "metric" | "us" = "metric"): string =>
  alarmWords(
    site((s) => {
      s.site.units = units;
    }),
    { kind, subjectId, measuredLpm: 168, expectedLpm: 100, note, kPa: { measured: 140, limit: 200 } },
  );

describe("names", () => {
  it("are a station's with its number, an element's own, a device's or else its id", () => {
    const named = site();
    expect(
      ["s2", "poc", "main", "ctl", "p", "src", "gauge", "run", "gone"].map((id) => subjectName(named, id)),
    ).toEqual(["station 2 S2", "Poc", "Main", "Controller", "P", "Source", "Gate gauge", "run", "gone"]);
  });
});

describe("an alarm in words", () => {
  it.each<[AlarmKind, string, RegExp[]]>([
    ["stationHigh", "s2", [/High flow at station 2 S2: 168 L\/min read, 100 L\/min expected/, /broken lateral/]],
    ["stationLow", "s2", [/Low flow at station 2 S2/, /clogged filter/]],
    ["mainline", "main", [/Main leaks/, /168 L\/min with every station closed/, /locked out/]],
    ["supply", "poc", [/Everything on Poc is low/, /No station is to blame/]],
    ["burst", "poc", [/Burst limit passed at Poc/, /before the water is turned on again/]],
    ["offSchedule", "poc", [/Flow at Poc while nothing is scheduled: 168 L\/min/]],
    ["notFoundAgain", "main", [/was not found again with each station alone/]],
    ["pumpNoFlow", "gauge", [/ran 60 s against no flow and was stopped/, /scalding/]],
    ["sensor", "fs", [/suspect flow sensor fs/, /Nothing is locked/]],
    [
      "pressureLow",
      "gauge",
      [/Pressure at Gate gauge is under its limit: 140 kPa, limit 200 kPa, while 168 L\/min flows/],
    ],
    ["pressureHigh", "gauge", [/over its limit: 140 kPa/, /relieve pressure before opening/]],
  ])("%s says what was read, what it means and what to look for", (kind, subjectId, patterns) => {
    for (const pattern of patterns) expect(words(kind, subjectId)).toMatch(pattern);
    expect(words(kind, subjectId)).not.toMatch(/undefined|NaN/);
  });
  it("is in the units of the site", () => {
    expect(words("stationHigh", "s2", undefined, "us")).toContain("44.4 gal/min read, 26.4 gal/min expected");
    expect(words("pressureLow", "gauge", undefined, "us")).toContain("20.3 psi, limit 29 psi");
  });
  it("says what was particular about it", () => {
    expect(words("stationHigh", "s2", "searchedBefore")).toMatch(/searched already tonight, so this only notifies\.$/);
    expect(words("burst", "poc", "stopStation")).toMatch(/All that ran were closed and locked out\.$/);
    expect(words("sensor", "fs", "highInARow")).toMatch(/second station high in a row while the mainline is tight/);
    expect(words("sensor", "fs", "sensorBySupply")).toMatch(/reads nothing while there is pressure/);
    for (const kind of ["stationHigh", "offSchedule", "burst"] as const)
      expect(words(kind, "s2", "onlyTold")).toMatch(/Presa only tells, nothing was shut\.$/);
  });
  it("of a pump that nobody stopped asks for it to be stopped", () => {
    for (const note of ["onlyTold", "controllerSilent"] as const)
      expect(words("pumpNoFlow", "gauge", note)).toMatch(/has run 60 s against no flow.*have it stopped/);
  });
});
