import { describe, expect, it } from "vitest";
import { type CalendarSite, calendarOf } from "./calendar.ts";
import { checklistsSchema, USUAL_CHECKLISTS } from "./checklists.ts";

const MAY = { from: "2026-05-01", to: "2026-05-31" };
const site = (more: Partial<CalendarSite>): CalendarSite => ({
  siteId: "s",
  site: "Mill Court",
  today: "2026-05-10",
  due: [],
  dated: [],
  nights: [],
  visits: [],
  todos: [],
  ...more,
});
const days = (of: Partial<CalendarSite>): [string, string, boolean][] =>
  calendarOf(site(of), MAY).map((e) => [e.on, e.words, e.late]);

describe("a site's calendar", () => {
  it("has visits, what is to do, what is due and what the settings date, by the day; what should have been done by now is late", () => {
    expect(
      days({
        visits: [
          { id: "v", on: "2026-05-09", words: "Monthly, Maren", open: false },
          { id: "w", on: "2026-05-08", words: "Repair, Maren", open: true },
        ],
        todos: [{ id: "t", on: "2026-05-10", words: "Lid of box 4" }],
        due: [{ duty: "backflow", subjectId: "rp", name: "Vault", last: null, on: "2026-05-02" }],
        dated: [
          { what: "program", words: "Establishment 1 of 5: Lawn", from: "2026-05-03", until: "2026-05-20" },
          { what: "off", words: "Off", from: null, until: "2026-05-12" },
          { what: "off", words: "Off", from: null, until: null },
        ],
        nights: [
          { date: "2026-05-10", shortfallMin: 41.6 },
          { date: "2026-05-12", shortfallMin: 3 },
        ],
      }),
    ).toEqual([
      ["2026-05-02", "backflow test due: Vault", true],
      ["2026-05-03", "Establishment 1 of 5: Lawn begins", false],
      ["2026-05-08", "Repair, Maren", true],
      ["2026-05-09", "Monthly, Maren", false],
      ["2026-05-10", "full night, 42 min short", false],
      ["2026-05-10", "Lid of box 4", false],
      ["2026-05-12", "full night, 3 min short", false],
      ["2026-05-12", "Off until today: it waters again", false],
      ["2026-05-20", "Establishment 1 of 5: Lawn: last day", false],
    ]);
  });
  it("has nothing of other days, and every thing under a key of its own", () => {
    expect(
      days({
        todos: [{ id: "t", on: "2026-06-01", words: "later" }],
        nights: [{ date: "2026-05-10", shortfallMin: 0.4 }],
      }),
    ).toEqual([]);
    const due = ["a", "b"].map((subjectId) => ({
      duty: "battery" as const,
      subjectId,
      name: subjectId,
      last: null,
      on: "2026-05-02",
    }));
    expect(new Set(calendarOf(site({ due }), MAY).map((e) => e.key)).size).toBe(2);
  });
});

it("the usual checklists are checklists, and each yearly line is somewhere among them", () => {
  expect(checklistsSchema.parse(USUAL_CHECKLISTS)).toEqual(USUAL_CHECKLISTS);
  const duties = USUAL_CHECKLISTS.flatMap((c) => c.lines.flatMap((l) => l.duty ?? []));
  expect(new Set(duties)).toEqual(new Set(["spring", "battery", "backflow", "winter"]));
  const [first] = USUAL_CHECKLISTS;
  expect(checklistsSchema.safeParse([first, first]).success).toBe(false);
});
