import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { parseSite } from "./parse-site.ts";
import { patternOf } from "./pattern.ts";

const NEW = { id: "new", name: "Thistle Court", timeZone: "Europe/Oslo" };

describe("a site as a pattern", () => {
  it("is a whole site file of its own, whatever it is begun from", () => {
    for (const site of demoSites()) {
      const made = patternOf(site, NEW);
      expect(parseSite(made), site.site.name).toMatchObject({ ok: true });
      expect(made.site).toMatchObject(NEW);
      expect(made.stations.map((s) => [s.id, s.number, s.name])).toEqual(
        site.stations.map((s) => [s.id, s.number, s.name]),
      );
      expect(made.programs.map((p) => [p.name, p.starts, p.runs])).toEqual(
        site.programs.map((p) => [p.name, p.starts, p.runs]),
      );
      expect(made.policy).toEqual(site.policy);
    }
  });
  it("has nothing that was found, learned, proved, read or locked out there", () => {
    const [site] = demoSites();
    if (!site) throw new Error("There is no demo site.");
    const at = "2026-05-06T03:10:00Z";
    const test = { litres: 100, seconds: 60, hz: 5 };
    Object.assign(site.stations[0] as object, {
      expectedSince: at,
      repairedAt: at,
      serial: "K1",
      lockedOut: true,
      expectedFrom: "learned",
      files: [{ id: "f", name: "a.jpg" }],
    });
    Object.assign(site.stations[1] as object, { expectedFrom: "design" });
    Object.assign(site.programs[0] as object, { holdUntil: "indefinite" });
    for (const d of site.pocs[0]?.devices ?? [])
      Object.assign(d, {
        serial: "K2",
        checks: [{ what: "found", at, by: "Ada" }],
        provings: [{ at, by: "Ada", tests: [test] }],
      });
    Object.assign(site, {
      site: { ...site.site, holdUntil: "indefinite", latitudeDeg: 47, longitudeDeg: 15 },
      wireReadings: [{ id: "w", subjectId: "lc1", ohm: 30, at, by: "Ada" }],
      tray: [{ serial: "K3" }],
      weatherInputs: [
        { id: "i", name: "Rain", kind: "rain", bypassed: true, readings: [{ at: "2026-07-14T21:30", value: 1 }] },
      ],
    });
    const made = patternOf(site, NEW);
    const text = JSON.stringify(made);
    const gone = [
      ...[
        "learned",
        "provings",
        "checks",
        "serial",
        "wireReadings",
        "tray",
        "expectedSince",
        "repairedAt",
        "lockedOut",
      ],
      ...["holdUntil", "files", "readings", "bypassed", "latitudeDeg", "longitudeDeg"],
    ];
    expect(gone.filter((key) => text.includes(`"${key}":`))).toEqual([]);
    expect(made.stations.slice(0, 2).map((s) => s.expectedFrom)).toEqual([undefined, "design"]);
    expect(made.site.notes).toBe(site.site.notes);
  });
});
