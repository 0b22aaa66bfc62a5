import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { pasteStations } from "./paste.ts";

const at = { row: 0, column: 0 };

describe("pasting stations", () => {
  it("understands headings, matches rows by number and adds the others", () => {
    const r = pasteStations(smallSite(), "No.\tName\tDesign, L/min\tMainline\n1\tGate lawn\t3*30\tMain\n12\tBank\t55\tmain", at, "metric");
    expect(r).toMatchObject({ ok: true, added: 1, changed: 1 });
    expect(r.ok && r.file.stations.map((s) => [s.number, s.name, s.designFlowLpm])).toEqual([[1, "Gate lawn", 90], [2, "S2", 100], [3, "S3", 50], [12, "Bank", 55]]);
  });
  it("fills from the cell given when there are no headings", () => {
    const r = pasteStations(smallSite(), "10\n20", { row: 1, column: 6 }, "us");
    expect(r.ok && r.file.stations.map((s) => s.designFlowLpm)).toEqual([100, expect.closeTo(37.85411784, 9), expect.closeTo(75.70823568, 9)]);
  });
  it("takes nothing when one cell is refused, and names every one", () => {
    const r = pasteStations(smallSite(), "No.,Name,Design\n1,A,abc\n2,B,-5", at, "metric");
    expect(!r.ok && r.refused).toEqual([expect.stringContaining("Row 2, Design"), expect.stringContaining("Row 3, Design")]);
  });
  it("refuses a number used twice", () => {
    const r = pasteStations(smallSite(), "2", at, "metric");
    expect(!r.ok && r.refused[0]).toContain("Number 2");
  });
});
