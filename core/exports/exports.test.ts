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
  it("says on the setup sheet what acts on the date: percents, closed hours, holds, the program's own cycles", () => {
    const s = smallSite((f) => {
      Object.assign(f.site, { seasonalPercent: 80, weatherPercents: [{ date: "2026-07-14", percent: 50 }] });
      Object.assign(f.programs[0] as object, {
        monthlyPercent: [100, 100, 100, 100, 100, 100, 75, 100, 100, 100, 100, 100],
        closedHours: [{ days: ["sun"], from: "06:00", to: "20:00" }],
        from: "2026-05-01",
        holdUntil: "2026-08-01",
        cycle: { count: 2 },
        soakMin: 3,
      });
    });
    const sheet = (date: string) => setupSheet(s, s.controllers[0] as Controller, date);
    expect(sheet("2026-07-14").programs[0]).toMatchObject({
      percents: "site 80 % × Jul 75 % × weather 50 % = 30 %",
      windows: "any hour, closed sun 06:00–20:00",
      holds: "held, waters again on 2026-08-01, from 2026-05-01",
      totalS: 540,
    });
    expect(sheet("2026-07-14").programs[0]?.rows[0]).toMatchObject({ runsS: 180, cycles: "1.5 + 1.5", soakMin: 3 });
    expect(sheet("2026-08-04").programs[0]).toMatchObject({ percents: "site 80 %", holds: "from 2026-05-01" });
    s.site.holdUntil = "indefinite";
    expect(sheet("2026-08-04").held).toBe("held, with no end");
    expect(setupCsv(sheet("2026-08-04")).split("\n")[1]).toMatch(
      /,site 80 %,"site held, with no end, from 2026-05-01"$/,
    );
  });
  it("says on the setup sheet what starts or pauses a program, in the site's units", () => {
    const s = smallSite((f) => {
      f.site.units = "us";
      f.weatherInputs = [{ id: "t", name: "Shed wall", kind: "temperature" }];
      Object.assign(f.programs[0] as object, { onInputs: [{ inputId: "t", does: "pause", when: "below", limit: 5 }] });
    });
    const sheet = setupSheet(s, s.controllers[0] as Controller, "2026-07-14");
    expect(sheet.programs[0]?.inputs).toBe("pauses while Shed wall is below 41 °F");
    expect(setupCsv(sheet).split("\n")[1]).toMatch(/,pauses while Shed wall is below 41 °F,,$/);
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
