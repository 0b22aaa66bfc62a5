import { describe, expect, it } from "vitest";
import { hoursOn } from "./hours-on.ts";

const VIENNA = "Europe/Vienna";
const at = (iso: string): number => Date.parse(iso);

describe("the next time that hours come on a site's clock", () => {
  it("today where it is to come, else tomorrow; an end before the beginning is of the next day", () => {
    expect(hoursOn(VIENNA, { from: "22:00" }, at("2026-07-14T10:00:00Z"))).toEqual({
      from: "2026-07-14T20:00:00.000Z",
    });
    expect(hoursOn(VIENNA, { from: "22:00", to: "05:00" }, at("2026-07-14T20:00:00Z"))).toEqual({
      from: "2026-07-15T20:00:00.000Z",
      to: "2026-07-16T03:00:00.000Z",
    });
  });
  it("on each site's own clock, whatever day it is there", () => {
    const now = at("2026-07-14T23:30:00Z");
    expect(hoursOn("America/Denver", { from: "22:00" }, now).from).toBe("2026-07-15T04:00:00.000Z");
    expect(hoursOn(VIENNA, { from: "22:00" }, now).from).toBe("2026-07-15T20:00:00.000Z");
  });
  it("over the change of the clocks", () => {
    expect(hoursOn(VIENNA, { from: "22:00", to: "06:00" }, at("2026-10-24T12:00:00Z"))).toEqual({
      from: "2026-10-24T20:00:00.000Z",
      to: "2026-10-25T05:00:00.000Z",
    });
  });
});
