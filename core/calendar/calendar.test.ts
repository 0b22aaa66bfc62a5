import { describe, expect, it } from "vitest";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { isDue } from "./due.ts";
import { adjustedSeconds, cyclesOf } from "./run-time.ts";
import { instantOf, localIso } from "../dates/wall-time.ts";
import { isInside, openIntervals, windowIntervals } from "./windows.ts";

const program = (values: Partial<Program>): Program => ({
  id: "p",
  name: "P",
  controllerId: "c",
  starts: [],
  days: { type: "weekdays", days: [] },
  runs: [],
  ...values,
});

describe("days", () => {
  it("odd dates may skip the 31st and 29 February", () => {
    const odd = program({ days: { type: "odd" } });
    const skipping = program({ days: { type: "odd", skip31st: true } });
    expect(["2026-07-31", "2028-02-29", "2026-07-29"].map((d) => [isDue(odd, d), isDue(skipping, d)])).toEqual([
      [true, false],
      [true, false],
      [true, true],
    ]);
  });
  it("an interval counts from its anchor, not before it, and never-on days drop the run", () => {
    const every3 = program({ days: { type: "interval", everyDays: 3, anchor: "2026-07-01", neverOn: ["sat"] } });
    expect(["2026-06-28", "2026-07-01", "2026-07-02", "2026-07-04", "2026-07-07"].map((d) => isDue(every3, d))).toEqual(
      [false, true, false, false, true],
    );
  });
  it("from and until include their days", () => {
    const p = program({ days: { type: "even" }, from: "2026-07-02", until: "2026-07-04" });
    expect(["2026-06-30", "2026-07-02", "2026-07-04", "2026-07-06"].map((d) => isDue(p, d))).toEqual([
      false,
      true,
      true,
      false,
    ]);
  });
});

describe("run times", () => {
  const site = (percent: number) => ({ site: { seasonalPercent: percent } }) as SiteFile;
  it("multiply percents and round once, half up, on exact decimals", () => {
    const p = program({
      seasonalPercent: 110,
      monthlyPercent: [100, 100, 100, 100, 100, 100, 90, 100, 100, 100, 100, 100],
    });
    expect(adjustedSeconds(site(75), p, 30, "2026-07-14")).toBe(1337);
    expect(adjustedSeconds(site(75), program({}), 12, "2026-07-14")).toBe(540);
    expect(adjustedSeconds(site(100), program({}), 0.1 + 0.2, "2026-07-14")).toBe(18);
    expect(adjustedSeconds(site(0), program({}), 12, "2026-07-14")).toBe(0);
  });
  it("split into cycles by both schools", () => {
    expect(cyclesOf({ longestMin: 5 }, 22 * 60)).toEqual([300, 300, 300, 300, 120]);
    expect(cyclesOf({ count: 3 }, 100)).toEqual([34, 33, 33]);
    expect(cyclesOf({ count: 4 }, 2)).toEqual([1, 1]);
    expect(cyclesOf(undefined, 0)).toEqual([]);
  });
});

describe("wall time and windows", () => {
  const zone = "Europe/Vienna";
  it("a skipped time is the first instant after the gap, a doubled one the first", () => {
    expect(localIso(zone, instantOf(zone, "2026-03-29", "02:30"))).toBe("2026-03-29T03:00:00+02:00");
    expect(localIso(zone, instantOf(zone, "2026-10-25", "02:30"))).toBe("2026-10-25T02:30:00+02:00");
  });
  it("pass midnight, belong to the day on which they begin, and from = to is 24 h", () => {
    const [night] = windowIntervals(zone, [{ days: ["tue"], from: "23:30", to: "01:00" }], "2026-07-14", 1);
    expect([localIso(zone, night?.from ?? 0), localIso(zone, night?.to ?? 0)]).toEqual([
      "2026-07-14T23:30:00+02:00",
      "2026-07-15T01:00:00+02:00",
    ]);
    const [whole] = windowIntervals(zone, [{ from: "06:00", to: "06:00" }], "2026-07-14", 1);
    expect((whole?.to ?? 0) - (whole?.from ?? 0)).toBe(86_400);
  });
  it("closed hours cut holes", () => {
    const open = openIntervals(zone, { closedHours: [{ from: "00:15", to: "00:30" }] }, "2026-07-14", 2);
    const at = (t: string) => isInside(open, instantOf(zone, "2026-07-15", t));
    expect([at("00:14"), at("00:15"), at("00:29"), at("00:30")]).toEqual([true, false, false, true]);
  });
});
