import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { hoursApart, movedByZone } from "./zone-change.ts";

describe("another time zone", () => {
  it("leaves clocks and moves moments, each start by as much", () => {
    const site = smallSite((s) => {
      Object.assign(s.programs[0] as object, { starts: ["22:00", { at: "23:00", off: true }] });
    });
    expect(movedByZone(site, "America/Denver", "2026-07-14")).toEqual([
      { program: site.programs[0]?.name, start: "22:00", hours: 8 },
    ]);
    expect(movedByZone(site, "Europe/Berlin", "2026-07-14")).toEqual([]);
  });
  it("may be another number of hours in half a year", () => {
    expect(hoursApart("Europe/Vienna", "Africa/Lagos", "2026-07-14")).toEqual({ now: -1, inHalfAYear: 0 });
  });
});
