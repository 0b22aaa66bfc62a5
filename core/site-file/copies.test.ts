import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { controllerSettings, copyController, copyStation, patternOfProgram, putProgram } from "./copies.ts";
import { parseSite } from "./parse-site.ts";
import type { SiteFile } from "./schema.ts";

const site = smallSite((s) => {
  Object.assign(s.stations[0] ?? {}, {
    planting: "turf",
    cycle: { longestMin: 6 },
    soakMin: 20,
    highPercent: 30,
    serial: "A-1",
    learned: { meanLpm: 40, sdLpm: 1, at: "2026-05-01T00:00:00Z" },
  });
  Object.assign(s.stations[1] ?? {}, { planting: "bed", lowPercent: 12 });
  Object.assign(s.controllers[0] ?? {}, { maxStationsAtOnce: 3, profileId: "p", off: true });
  s.controllers.push({ id: "c2", name: "Two", powered: "battery", budgetMa: 300 });
  Object.assign(s.programs[0] ?? {}, { name: "Lawns", seasonalPercent: 80, holdUntil: "2026-08-01", notes: "Early" });
});
const station = (file: SiteFile, id: string) => file.stations.find((s) => s.id === id);

describe("settings copied from one to others", () => {
  it("a station gives the chosen parts; what it has not set goes, what is its own stays", () => {
    const copied = copyStation(site, "s1", new Set(["s1", "s2"]), new Set(["planting", "cycles", "limits"]));
    expect(station(copied, "s2")).toMatchObject({
      planting: "turf",
      cycle: { longestMin: 6 },
      soakMin: 20,
      highPercent: 30,
    });
    expect(station(copied, "s2")).not.toHaveProperty("lowPercent");
    expect(station(copied, "s2")).not.toHaveProperty("serial");
    expect(station(copied, "s2")).not.toHaveProperty("learned");
    expect(station(copied, "s2")?.name).toBe(station(site, "s2")?.name);
    expect(station(copied, "s1")).toBe(station(site, "s1"));
    expect(station(copied, "s3")).toBe(station(site, "s3"));
    expect(station(copyStation(site, "s1", new Set(["s2"]), new Set(["cycles"])), "s2")).toMatchObject({
      planting: "bed",
      lowPercent: 12,
    });
    expect(copyStation(site, "nobody", new Set(["s2"]), new Set(["cycles"]))).toBe(site);
    expect(parseSite(copied).ok).toBe(true);
  });
  it("a controller gives what others may have too, and nothing of what it is to them", () => {
    const settings = controllerSettings.parse(site.controllers[0]);
    const copied = copyController(site, settings, new Set(["c2"])).controllers[1];
    expect(copied).toMatchObject({ id: "c2", name: "Two", powered: "mains", maxStationsAtOnce: 3, profileId: "p" });
    expect(copied).not.toHaveProperty("budgetMa");
    expect(copied).not.toHaveProperty("off");
    expect(copyController(site, settings, null).controllers.every((c) => c.maxStationsAtOnce === 3)).toBe(true);
  });
  it("a program of the name is set alike and keeps its stations, hold and controller; else it begins without stations", () => {
    const pattern = patternOfProgram(site.programs[0] as SiteFile["programs"][number]);
    expect(pattern).not.toHaveProperty("holdUntil");
    const other = smallSite((s) => Object.assign(s.programs[0] ?? {}, { name: "LAWNS", dispatch: "strict" }) as never);
    const there = putProgram(other, pattern, () => "fresh").programs[0];
    expect(there).toMatchObject({ id: other.programs[0]?.id, name: "LAWNS", seasonalPercent: 80, notes: "Early" });
    expect(there?.runs).toEqual(other.programs[0]?.runs);
    expect(there).not.toHaveProperty("dispatch");
    const begun = putProgram(smallSite(), { ...pattern, name: "Beds" }, () => "fresh");
    expect(begun.programs.at(-1)).toMatchObject({ id: "fresh", name: "Beds", runs: [] });
    expect(parseSite(begun).ok).toBe(true);
    const bare = { ...smallSite(), controllers: [], stations: [], programs: [] };
    expect(putProgram(bare, pattern, () => "fresh")).toBe(bare);
  });
});
