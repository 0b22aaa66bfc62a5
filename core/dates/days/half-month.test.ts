import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { addDays } from "../wall-time.ts";
import { DAY_RULES, DAY_TYPES, ruleOf } from "../day-rules.ts";
import { halfMonthRule } from "./half-month.ts";

const halves = (change: Record<number, number>, usual = 0): number[] =>
  Array.from({ length: 24 }, (_, h) => change[h] ?? usual);
const due = (everyDays: number[], anchor: string, from: string, days: number): string[] =>
  Array.from({ length: days }, (_, i) => addDays(from, i)).filter((d) =>
    halfMonthRule.due({ type: "halfMonth", everyDays, anchor }, d),
  );

/** The rule word for word: day by day, the days since the last due day against the number of the half. */
function plainly(everyDays: number[], anchor: string, until: string): string[] {
  const found: string[] = [];
  let since = 0;
  for (let d = anchor; d <= until; d = addDays(d, 1), since++) {
    const [month, day] = [Number(d.slice(5, 7)) - 1, Number(d.slice(8))];
    const every = everyDays[2 * month + (day <= 15 ? 0 : 1)] ?? 0;
    if (every === 0 || (d !== anchor && since < every)) continue;
    found.push(d);
    since = 0;
  }
  return found;
}

describe("days by half-month", () => {
  it("counts on from the last due day into the next half", () => {
    // June's halves are 10 and 11: every 6 days, then every 4. The 17th is the fourth day after the 13th.
    expect(due(halves({ 10: 6, 11: 4 }), "2026-06-01", "2026-06-01", 30)).toEqual([
      "2026-06-01",
      "2026-06-07",
      "2026-06-13",
      "2026-06-17",
      "2026-06-21",
      "2026-06-25",
      "2026-06-29",
    ]);
  });

  it("is never due in a half with 0, and goes on after it from the last due day", () => {
    expect(due(halves({ 10: 4, 11: 0, 12: 4 }), "2026-06-01", "2026-06-10", 30)).toEqual([
      "2026-06-13",
      "2026-07-01",
      "2026-07-05",
      "2026-07-09",
    ]);
    expect(halfMonthRule.never({ type: "halfMonth", everyDays: halves({}), anchor: "2026-01-01" })).toBe(true);
  });

  it("is not due before its anchor, and the anchor in a half with 0 only begins the count", () => {
    expect(due(halves({}, 2), "2026-06-10", "2026-06-01", 12)).toEqual(["2026-06-10", "2026-06-12"]);
    expect(due(halves({ 11: 5 }), "2026-06-14", "2026-06-14", 12)).toEqual(["2026-06-19", "2026-06-24"]);
  });

  it("equals the rule read day by day, through leap years and year ends", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 24, maxLength: 24 }),
        fc.integer({ min: 0, max: 1500 }),
        fc.integer({ min: 1, max: 800 }),
        (everyDays, begin, days) => {
          const anchor = addDays("2023-01-01", begin);
          const until = addDays(anchor, days);
          expect(due(everyDays, anchor, anchor, days + 1)).toEqual(plainly(everyDays, anchor, until));
        },
      ),
      { numRuns: 60 },
    );
  });

  it("is told in words, halves alike together", () => {
    expect(
      halfMonthRule.words({ type: "halfMonth", everyDays: halves({ 8: 2, 9: 2, 10: 1 }), anchor: "2026-05-01" }),
    ).toBe(
      "by half-month: none from 1 Jan, every 2 days from 1 May, every 1 day from 1 Jun, none from 16 Jun; counted from 2026-05-01",
    );
  });
});

describe("every rule of days", () => {
  it.each(DAY_TYPES)(
    "%s: what it begins with is taken by its schema, is told, and is due as often as it says",
    (type) => {
      const days = DAY_RULES[type].blank("2025-01-01");
      const rule = ruleOf(days);
      expect(rule.schema.parse(days)).toEqual(days);
      expect(rule.words(days)).not.toBe("");
      expect(rule.never(days)).toBe(false);
      const year = Array.from({ length: 364 }, (_, i) => addDays("2025-01-01", i)).filter((d) => rule.due(days, d));
      expect(year.length / 52).toBeCloseTo(rule.perWeek(days), 0);
      const later = rule.countedFrom(days, "2025-06-02");
      expect(rule.schema.parse(later)).toEqual(later);
    },
  );
});
