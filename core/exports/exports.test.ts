import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import type { Controller, SiteFile } from "../site-file/schema.ts";
import { csvLine } from "./csv.ts";
import { runsCsv } from "./runs-csv.ts";
import { setupCsv, setupSheet } from "./setup-sheet.ts";
import { wateringCalendar } from "./watering-calendar.ts";

const site = (): SiteFile =>
  smallSite((s) => {
    Object.assign(s.stations[0] as object, { name: "=Lawn, north", cycle: { longestMin: 4 }, soakMin: 10 });
  });

describe("what goes out", () => {
  it("CSV cells are quoted and guarded", () => {
    expect(csvLine(["a,b", "=1+1", -3, null, 'say "x"'])).toBe('"a,b",\'=1+1,-3,,"say ""x"""');
  });
  it("the runs of a night, one line each", () => {
    const { runs } = plan(site(), "2026-07-14");
    const lines = runsCsv(site(), runs).trim().split("\n");
    expect(lines).toHaveLength(runs.length + 1);
    expect(lines[1]).toMatch(
      /^2026-07-14T22:00:00\+02:00,2026-07-14T22:04:00\+02:00,4,Controller,1,"'=Lawn, north",P,1,100,400$/,
    );
  });
  it("the setup sheet in the controller's order, with totals", () => {
    const sheet = setupSheet(site(), site().controllers[0] as Controller, "2026-07-14");
    expect(sheet.programs[0]).toMatchObject({ days: "tue", windows: "any hour", totalS: 1800, litres: 2500 });
    expect(sheet.programs[0]?.rows[0]).toMatchObject({
      order: 1,
      number: 1,
      runsS: 600,
      cycles: "4 + 4 + 2",
      soakMin: 10,
      flowLpm: 100,
    });
    expect(setupCsv(sheet).trim().split("\n")).toHaveLength(4);
  });
  it("says on the setup sheet what starts or pauses a program, in the site's units", () => {
    const s = smallSite((f) => {
      f.site.units = "us";
      f.weatherInputs = [{ id: "t", name: "Shed wall", kind: "temperature" }];
      Object.assign(f.programs[0] as object, { onInputs: [{ inputId: "t", does: "pause", when: "below", limit: 5 }] });
    });
    const sheet = setupSheet(s, s.controllers[0] as Controller, "2026-07-14");
    expect(sheet.programs[0]?.inputs).toBe("pauses while Shed wall is below 41 °F");
    expect(setupCsv(sheet).split("\n")[1]).toMatch(/,pauses while Shed wall is below 41 °F$/);
  });
  it("a calendar that says when each program waters, in instants", () => {
    const text = wateringCalendar(site(), "2026-07-13", 3, "2026-07-01T00:00:00Z");
    expect(text.match(/BEGIN:VEVENT/g)).toHaveLength(1);
    expect(text).toContain("DTSTART:20260714T200000Z");
    expect(text).toContain(
      `DTEND:${new Date(Math.max(...plan(site(), "2026-07-14").runs.map((r) => Date.parse(r.end)))).toISOString().replace(/[-:]|\.\d+/g, "")}`,
    );
    expect(text).toContain("UID:p-2026-07-14@small");
  });
});
