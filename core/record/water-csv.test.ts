import { expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterTable } from "./water-table.ts";
import { waterCsv } from "./water-csv.ts";

it("water of a site goes out with the figures of its table, a line a month, what nobody knows left empty", () => {
  const table = waterTable(smallSite(), {
    rows: [
      { at: "2026-09", key: "scheduled", estimated: false, litres: 12_345.6 },
      { at: "2026-11", key: "broken", estimated: false, litres: 500 },
    ],
    sensors: [{ at: "2026-09", litres: 12_345.6, gapS: 5400 }],
  });
  const lines = waterCsv(table, (key) => (key === "broken" ? "broken, lost" : key)).split("\n");
  expect(lines[0]).toBe(
    'time,used m3,scheduled m3,"broken, lost m3",not read as planned m3,not read h,plan m3,budget m3,a year before m3',
  );
  expect(lines.slice(1, 4).map((l) => l.split(",").slice(0, 6))).toEqual([
    ["2026-09", "12.346", "12.346", "0", "0", "1.5"],
    ["2026-10", "0", "0", "0", "0", ""],
    ["2026-11", "0.5", "0", "0.5", "0", ""],
  ]);
});
