import fc from "fast-check";
import { Temporal } from "temporal-polyfill";
import { describe, expect, it } from "vitest";
import {
  addDays,
  dayOfMonth,
  daysBetween,
  instantOf,
  isSkippedWallTime,
  localClock,
  localDate,
  localIso,
  monthOf,
  weekdayOf,
} from "./wall-time.ts";

/** Half-hour offsets, half-hour and whole-hour changes, both hemispheres, a zone that changes about Ramadan, and one that skipped a day. */
const ZONES = [
  "Europe/Berlin",
  "America/New_York",
  "Australia/Lord_Howe",
  "Africa/Casablanca",
  "Asia/Kathmandu",
  "Pacific/Chatham",
  "Pacific/Apia",
  "UTC",
];
const two = (n: number): string => String(n).padStart(2, "0");
const anyDate = fc
  .tuple(fc.integer({ min: 2005, max: 2035 }), fc.integer({ min: 0, max: 365 }))
  .map(([year, days]) => addDays(`${year}-01-01`, days));
const anyTime = fc
  .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }))
  .map(([h, m]) => [two(h), two(m)].join(":"));
const iso = (s: number): string => new Date(s * 1000).toISOString();

describe("the instant of a wall time", () => {
  it("is the first one that shows it, by an independent reckoning, in any zone at any time of the year", () => {
    fc.assert(
      fc.property(fc.constantFrom(...ZONES), anyDate, anyTime, (zone, date, time) => {
        const at = instantOf(zone, date, time);
        const plain = Temporal.PlainDateTime.from(`${date}T${time}`);
        const wanted = plain.toZonedDateTime(zone, { disambiguation: "earlier" });
        if (wanted.toPlainDateTime().equals(plain)) {
          expect(at).toBe(wanted.epochMilliseconds / 1000);
          expect(localIso(zone, at).slice(0, 16)).toBe(`${date}T${time}`);
        } else {
          expect(isSkippedWallTime(zone, date, time)).toBe(true);
          // The first instant after the gap: a second before it the clock is before the time asked for, and then it is past it.
          expect(localIso(zone, at - 1).slice(0, 16) < `${date}T${time}`).toBe(true);
          expect(localIso(zone, at).slice(0, 16) > `${date}T${time}`).toBe(true);
        }
      }),
      { numRuns: 1500 },
    );
  });
  it.each([
    ["skipped: the first instant after the gap", "2026-03-29", "02:30", "2026-03-29T01:00:00.000Z"],
    ["just before the gap", "2026-03-29", "01:59", "2026-03-29T00:59:00.000Z"],
    ["occurs twice: the first", "2026-10-25", "02:30", "2026-10-25T00:30:00.000Z"],
    ["after the second", "2026-10-25", "03:00", "2026-10-25T02:00:00.000Z"],
  ])("%s", (_, date, time, wanted) => {
    expect(iso(instantOf("Europe/Berlin", date, time))).toBe(wanted);
  });
  it("takes seconds too", () => {
    expect(
      instantOf("Europe/Berlin", "2026-07-14", "22:00:07") - instantOf("Europe/Berlin", "2026-07-14", "22:00"),
    ).toBe(7);
  });
  it.each([
    ["2026-02-30", "10:00"],
    ["2026-07-14", "24:00"],
    ["2026-07-14", "10:61"],
    ["soon", "10:00"],
  ])("%s %s is refused: there is no such time", (date, time) => {
    expect(() => instantOf("Europe/Berlin", date, time)).toThrow(RangeError);
  });
  it("a zone that nobody knows is refused", () => {
    expect(() => instantOf("Atlantis/Sunken", "2026-07-14", "10:00")).toThrow(RangeError);
  });
});

describe("an instant as people write it", () => {
  it("carries its offset, also west of Greenwich and by half hours", () => {
    const at = instantOf("UTC", "2026-07-14", "20:00");
    expect(localIso("Europe/Berlin", at)).toBe("2026-07-14T22:00:00+02:00");
    expect(localIso("America/New_York", at)).toBe("2026-07-14T16:00:00-04:00");
    expect(localIso("Asia/Kathmandu", at)).toBe("2026-07-15T01:45:00+05:45");
    expect(localClock("Asia/Kathmandu", at)).toBe("01:45");
    expect(localDate("Asia/Kathmandu", at)).toBe("2026-07-15");
  });
  it("is written to the second below", () => {
    expect(localIso("UTC", 59.999)).toBe("1970-01-01T00:00:59+00:00");
  });
});

describe("days", () => {
  it("are counted over months, leap days and clock changes", () => {
    expect(addDays("2028-02-28", 1)).toBe("2028-02-29");
    expect(addDays("2026-01-01", -1)).toBe("2025-12-31");
    expect(daysBetween("2026-03-01", "2026-04-01")).toBe(31);
    expect(daysBetween("2026-04-01", "2026-03-01")).toBe(-31);
  });
  it("adding and counting undo each other", () => {
    fc.assert(
      fc.property(anyDate, fc.integer({ min: -4000, max: 4000 }), (date, days) => {
        expect(daysBetween(date, addDays(date, days))).toBe(days);
      }),
    );
  });
  it("have a weekday, a day of the month and a month", () => {
    expect(weekdayOf("2026-11-27")).toBe("fri");
    expect(weekdayOf("2026-11-29")).toBe("sun");
    expect(dayOfMonth("2026-11-07")).toBe(7);
    expect(monthOf("2026-11-07")).toBe(11);
  });
});
