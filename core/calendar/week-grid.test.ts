import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { onWholeHours, weekHours, windowsOfWeek } from "./week-grid.ts";

describe("the week as hours", () => {
  it("windows and hours are each other's inverse, over midnight and over Sunday", () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 168, maxLength: 168 }), (open) => {
        const windows = windowsOfWeek(open);
        expect(onWholeHours(windows)).toBe(true);
        expect(weekHours(windows).map((h) => h === 1)).toEqual(open);
      }),
    );
    for (const all of [true, false])
      expect(weekHours(windowsOfWeek(Array(168).fill(all))).every((h) => (h === 1) === all)).toBe(true);
  });
  it("the same hours on every night are one window", () => {
    const nights = Array.from({ length: 168 }, (_, h) => h % 24 >= 21 || h % 24 < 6);
    expect(windowsOfWeek(nights)).toEqual([{ from: "21:00", to: "06:00" }]);
    expect(windowsOfWeek(nights.map((o, h) => o && !(h >= 5 * 24 + 21 || h < 6)))).toEqual([
      { days: ["mon", "tue", "wed", "thu", "fri"], from: "21:00", to: "06:00" },
    ]);
  });
  it("parts of an hour are told as parts", () => {
    const hours = weekHours([{ days: ["mon"], from: "22:15", to: "23:00" }]);
    expect(hours[22]).toBeCloseTo(0.75, 9);
    expect(onWholeHours([{ from: "22:15", to: "23:00" }])).toBe(false);
  });
});
