import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { conventions } from "./conventions";
import { language } from "@/contracts/people";
import { laterBy } from "@/core/dates/later-by";
import { asDate, asIso, readDate, readTime, writeDate, writeDay, writeMonth, writeShort } from "./dates";

const anyDay = fc
  .date({ min: new Date("1950-01-01T12:00:00Z"), max: new Date("2150-12-31T12:00:00Z"), noInvalidDate: true })
  .map((d) => d.toISOString().slice(0, 10));

describe("a date as it is written", () => {
  it("is written in the order of the site, with its weekday where that helps", () => {
    expect(writeDate("2026-11-26", "metric")).toBe("26 Nov 2026");
    expect(writeDate("2026-11-26", "us")).toBe("Nov 26, 2026");
    expect(writeDay("2026-11-26", "metric")).toBe("Thu 26 Nov 2026");
    expect(writeDay("2026-11-26", "us")).toBe("Thu Nov 26, 2026");
    expect(writeShort("2026-03-01", "metric")).toBe("1 Mar");
    expect(writeShort("2026-03-01", "us")).toBe("Mar 1");
    expect(writeMonth("2026-02")).toBe("Feb 2026");
  });
  it("names months and days in the language of whoever reads it", () => {
    expect(writeDate("2026-11-26", "metric", "es")).toBe("26 nov 2026");
    expect(writeDay("2026-11-26", "us", "es")).toBe("jue nov 26, 2026");
    expect(conventions("metric", "Europe/Vienna", "es").momentAt("2026-01-15T03:30:00Z")).toBe("15 ene 2026 04:30");
  });
  it("of an instant is the day where the site is", () => {
    const at = "2026-07-15T03:30:00Z";
    expect(conventions("us", "America/Los_Angeles").dateAt(at)).toBe("Jul 14, 2026");
    expect(conventions("metric", "Europe/Vienna").dateAt(at)).toBe("15 Jul 2026");
  });
  it("that is none is shown as it stands", () => {
    expect(writeDate("soon", "metric")).toBe("soon");
    expect(writeDay("2026-13-40", "us")).toBe("2026-13-40");
  });
  it("on the days on which the clocks change is still that day", () => {
    for (const day of ["2026-03-29", "2026-10-25", "2026-03-08", "2026-11-01"]) expect(asIso(asDate(day))).toBe(day);
  });
});

describe("a date as it is read", () => {
  it("of both ways of writing, with or without its weekday", () => {
    for (const text of [
      "2026-11-26",
      "26 Nov 2026",
      "26 November 2026",
      "Nov 26, 2026",
      "Thu 26 Nov 2026",
      " 26.11.2026 ",
    ])
      expect(readDate(text, "metric"), text).toBe("2026-11-26");
    for (const text of ["Nov 26, 2026", "November 26, 2026", "Thursday, Nov 26, 2026", "11/26/2026"])
      expect(readDate(text, "us"), text).toBe("2026-11-26");
  });
  it("bare figures come in the site's own order", () => {
    expect(readDate("4/7/2026", "metric")).toBe("2026-07-04");
    expect(readDate("4/7/2026", "us")).toBe("2026-04-07");
  });
  it("what is on no calendar, or in no year that a site has, is none", () => {
    for (const text of ["", "tomorrow", "31.4.2026", "2026-02-29", "26 Nov 26", "2026-11", "1 Jan 1850"])
      expect(readDate(text, "metric"), text).toBeNull();
  });
  it("understands whatever the site itself writes", () => {
    fc.assert(
      fc.property(
        anyDay,
        fc.constantFrom("metric" as const, "us" as const),
        fc.constantFrom(...language.options),
        (day, system, read) => {
          expect(readDate(writeDate(day, system, read), system)).toBe(day);
          expect(readDate(writeDay(day, system, read), system)).toBe(day);
        },
      ),
    );
  });
});

describe("a time of day", () => {
  it("is read from what people type", () => {
    const read: [string, string][] = [
      ["21:30", "21:30"],
      ["2130", "21:30"],
      ["930", "09:30"],
      ["9.30 pm", "21:30"],
      ["9pm", "21:00"],
      ["12 am", "00:00"],
      ["12 p.m.", "12:00"],
      ["7", "07:00"],
      ["0h05", "00:05"],
    ];
    for (const [text, time] of read) expect(readTime(text), text).toBe(time);
  });
  it("past the clock, or with a half of a day that has no such hour, is none", () => {
    for (const text of ["24:00", "12:60", "13 pm", "0 am", "noon", "", "1:2:3"])
      expect(readTime(text), text).toBeNull();
  });
  it("goes round midnight both ways", () => {
    expect(laterBy("23:50", 15)).toBe("00:05");
    expect(laterBy("00:05", -15)).toBe("23:50");
    const time = fc
      .tuple(fc.nat(23), fc.nat(59))
      .map(([h, m]) => `${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}`);
    fc.assert(
      fc.property(time, fc.integer({ min: -1440, max: 1440 }), (from, by) => {
        const to = laterBy(from, by);
        expect(readTime(to)).toBe(to);
        expect(laterBy(to, -by)).toBe(from);
      }),
    );
  });
});
