import { describe, expect, it } from "vitest";
import fc from "fast-check";
import { smallSite } from "../../testing/small-site.ts";
import { addDays, addMonths } from "../dates/wall-time.ts";
import { datedOf } from "./dated.ts";
import { type DutySubject, dueDays, dueOn, dutyRules, dutySubjects, overdueWords, USUAL_RULES } from "./duties.ts";

const date = fc.integer({ min: 0, max: 4000 }).map((n) => addDays("2020-01-01", n));

describe("what is to be done anew", () => {
  it("is due so many months after it was done, by the calendar: never on a day that is not there", () => {
    expect(dueOn({ asked: true, months: 12 }, "2024-02-29", "2020-01-01")).toBe("2025-02-28");
    expect(dueOn({ asked: true, months: 6 }, "2026-08-31", "2020-01-01")).toBe("2027-02-28");
    expect(dueOn({ asked: true, months: 12 }, null, "2026-03-05")).toBe("2027-03-05");
    expect(addMonths("2026-12-31", 2)).toBe("2027-02-28");
  });
  it("is due by a day of the year; done somewhat early it is done for that one, late for the one it was late for", () => {
    const rule = { asked: true, onDay: "10-31" };
    expect(dueOn(rule, null, "2026-05-01")).toBe("2026-10-31");
    expect(dueOn(rule, null, "2026-11-01")).toBe("2027-10-31");
    expect(dueOn(rule, "2026-10-20", "2020-01-01")).toBe("2027-10-31");
    expect(dueOn(rule, "2026-11-15", "2020-01-01")).toBe("2027-10-31");
  });
  it("is never due before it was done, and always within its time and half a year", () => {
    fc.assert(
      fc.property(date, fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 28 }), (last, month, day) => {
        const onDay = `${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}`;
        const on = dueOn({ asked: true, onDay }, last, "2000-01-01");
        expect(on.slice(5)).toBe(onDay);
        expect(on >= addDays(last, 182) && on <= addDays(last, 182 + 366)).toBe(true);
      }),
    );
  });
  it("is a day of every year, and a whole number of months", () => {
    const passes = (winter: object) => dutyRules.safeParse({ ...USUAL_RULES, winter }).success;
    expect(passes({ asked: true, onDay: "11-30" })).toBe(true);
    for (const onDay of ["02-29", "11-31", "13-01", "1-1"]) expect(passes({ asked: true, onDay })).toBe(false);
    expect(dutyRules.safeParse({ ...USUAL_RULES, battery: { asked: true, months: 0.5 } }).success).toBe(false);
  });

  const site = smallSite((s) => {
    s.pocs[0]?.devices.push({
      id: "rp",
      kind: "backflow",
      name: "Vault",
      lossPoints: [{ flowLpm: 0, lossKpa: 40 }],
    } as never);
    Object.assign(s.stations[0] as object, { learned: { meanLpm: 99, sdLpm: 1, at: "2026-05-02T23:30:00.000Z" } });
  });
  const subjects = dutySubjects(site);
  it("names a backflow preventer by where it is, and by its own name where there are several", () => {
    const names = (...devices: string[]): string[] =>
      dutySubjects(
        smallSite((s) => {
          for (const [i, name] of devices.entries())
            s.pocs[0]?.devices.push({ id: `b${i}`, kind: "backflow", name, lossPoints: [{ flowLpm: 0, lossKpa: 40 }] });
        }),
      ).flatMap((s) => (s.duty === "backflow" ? s.name : []));
    expect(names("Vault")).toEqual([site.pocs[0]?.name]);
    expect(names("Vault", "Yard")).toEqual([`${site.pocs[0]?.name}, Vault`, `${site.pocs[0]?.name}, Yard`]);
  });
  it("is known of a site's settings: what there is, and when the settings say that it was done, by the site's calendar", () => {
    expect(subjects.map((s) => [s.duty, s.subjectId, s.last])).toEqual([
      ["battery", "ctl", null],
      ["backflow", "rp", null],
      ["learning", null, "2026-05-03"],
      ["spring", null, null],
      ["winter", null, null],
    ]);
  });
  it("counts from what was noted last, whichever tells it; what is not asked for is left out", () => {
    const done = [
      { duty: "backflow" as const, subjectId: "rp", on: "2025-02-01" },
      { duty: "backflow" as const, subjectId: "rp", on: "2026-02-01" },
      { duty: "battery" as const, subjectId: "another", on: "2026-06-01" },
    ];
    const due = dueDays(subjects, done, USUAL_RULES, "2026-01-10");
    expect(due.map((d) => [d.duty, d.on])).toEqual([
      ["battery", "2027-01-10"],
      ["backflow", "2027-02-01"],
      ["learning", "2027-05-03"],
    ]);
    const winter = { ...USUAL_RULES, winter: { asked: true, onDay: "10-31" } };
    expect(dueDays(subjects, [], winter, "2026-01-10")[0]).toMatchObject({ duty: "winter", on: "2026-10-31" });
  });
  it("is told once it is overdue, a line for each kind", () => {
    const due = (["One", "Two"] as const).map((name, i) => ({
      duty: "battery" as const,
      subjectId: name,
      name,
      last: null,
      on: `2026-03-0${i + 1}`,
    }));
    expect(overdueWords(due, "2026-03-01")).toEqual([]);
    expect(overdueWords(due, "2026-03-02")).toEqual([["battery", "backup battery overdue since 2026-03-01: One"]]);
    expect(overdueWords(due, "2026-03-09")).toEqual([["battery", "backup battery overdue since 2026-03-01: One, Two"]]);
    const none: DutySubject[] = [];
    expect(overdueWords(dueDays(none, [], USUAL_RULES, "2020-01-01"), "2026-03-09")).toEqual([]);
  });
});

it("the settings' own dates: programs with theirs, what is off until when", () => {
  expect(
    datedOf(
      smallSite((s) => {
        Object.assign(s.programs[0] as object, { from: "2026-05-01", until: "2026-05-07", holdUntil: "2026-05-03" });
        s.programs.push({ ...(s.programs[0] as (typeof s.programs)[number]), id: "q", enabled: false });
        s.site.holdUntil = "indefinite";
      }),
    ),
  ).toEqual([
    { what: "off", words: "Off", from: null, until: null },
    { what: "off", words: "P off", from: null, until: "2026-05-03" },
    { what: "program", words: "P", from: "2026-05-01", until: "2026-05-07" },
  ]);
});
