import { describe, expect, it } from "vitest";
import { smallSite } from "../../../testing/small-site.ts";
import { COLUMNS } from "./columns.ts";
import { pasteStations, stationsCsv } from "./paste.ts";

const at = { row: 0, column: 0 };

describe("pasting stations", () => {
  it("understands headings, matches rows by number and adds the others", () => {
    const r = pasteStations(
      smallSite(),
      "No.\tName\tDesign, L/min\tMainline\n1\tGate lawn\t3*30\tMain\n12\tBank\t55\tmain",
      at,
      "metric",
    );
    expect(r).toMatchObject({ ok: true, added: 1, changed: 1 });
    expect(r.ok && r.file.stations.map((s) => [s.number, s.name, s.designFlowLpm])).toEqual([
      [1, "Gate lawn", 90],
      [2, "S2", 100],
      [3, "S3", 50],
      [12, "Bank", 55],
    ]);
  });
  it("fills from the cell given when there are no headings", () => {
    const r = pasteStations(smallSite(), "10\n20", { row: 1, column: 6 }, "us");
    expect(r.ok && r.file.stations.map((s) => s.designFlowLpm)).toEqual([
      100,
      expect.closeTo(37.85411784, 9),
      expect.closeTo(75.70823568, 9),
    ]);
  });
  it("names every refused cell, keeps its value, and takes the others", () => {
    const r = pasteStations(smallSite(), "No.,Name,Design,Colour\n1,A,abc,red\n2,B,-5,blue", at, "metric");
    if (!r.ok) throw new Error(r.refused[0]);
    expect(r.refused).toEqual([expect.stringContaining("Row 2, Design"), expect.stringContaining("Row 3, Design")]);
    expect(r.file.stations.slice(0, 2).map((s) => [s.name, s.designFlowLpm])).toEqual([
      ["A", 100],
      ["B", 100],
    ]);
    expect(r.cells).toEqual([
      { station: "1 S1", column: "Name", from: "S1", to: "A" },
      { station: "2 S2", column: "Name", from: "S2", to: "B" },
    ]);
    expect([r.matched.map((m) => m.heading), r.ignored]).toEqual([["No.", "Name", "Design"], ["Colour"]]);
  });
  it.each([
    ["Design, gpm", "10", 37.85411784],
    ["Design (L/min)", "10", 10],
    ["gal/min", "10", 37.85411784],
    ["Flow", "10", 10],
  ])("a column headed %s is read in the units it names, whatever the site's", (heading, text, lpm) => {
    const r = pasteStations(smallSite(), `No.\t${heading}\n1\t${text}`, at, "metric");
    expect(r.ok && r.file.stations[0]?.designFlowLpm).toBeCloseTo(lpm, 9);
  });
  it("an area in square feet comes to square metres, and the change is shown as the site writes it", () => {
    const r = pasteStations(smallSite(), "No.\tArea, ft²\n1\t1000", at, "metric");
    expect(r.ok && r.cells).toEqual([{ station: "1 S1", column: "Area, m²", from: "", to: "92.9" }]);
  });
  it("refuses a number used twice", () => {
    const r = pasteStations(smallSite(), "2", at, "metric");
    expect(r.ok && r.refused[0]).toContain("number 2 is already used");
  });
  it("says what it would change, and changes nothing that is the same", () => {
    const site = smallSite();
    const r = pasteStations(site, stationsCsv(site, "us"), at, "us");
    expect(r).toMatchObject({ ok: true, added: 0, changed: 0, cells: [], refused: [], ignored: [] });
  });
});

describe("columns", () => {
  const column = (key: string) => COLUMNS.find((c) => c.key === key) as (typeof COLUMNS)[number];
  it("outlets times flow give the design flow; a figure typed over it lets them go", () => {
    expect(column("emitters").parse("24 x 2.5", smallSite(), "metric")).toEqual({
      ok: true,
      values: { emitters: { count: 24, lpmEach: 2.5 }, designFlowLpm: 60 },
    });
    expect(column("designFlowLpm").parse("61", smallSite(), "metric")).toEqual({
      ok: true,
      values: { designFlowLpm: 61, emitters: undefined },
    });
    expect(column("emitters").parse("many", smallSite(), "metric").ok).toBe(false);
  });
  it("weather inputs are ignored by name, and only those the site has", () => {
    const site = smallSite((s) => {
      s.weatherInputs = [
        { id: "w1", name: "Rain", kind: "rain" },
        { id: "w2", name: "Frost", kind: "freeze" },
      ];
    });
    expect(column("ignoresInputs").parse("frost; Rain", site, "metric")).toEqual({
      ok: true,
      values: { ignoresInputs: ["w2", "w1"] },
    });
    expect(column("ignoresInputs").parse("Snow", site, "metric")).toMatchObject({
      ok: false,
      why: expect.stringContaining("Rain, Frost"),
    });
    expect(column("usesPump").parse("no", site, "metric")).toEqual({ ok: true, values: { usesPump: false } });
  });
  it("CSV guards what a spreadsheet would run", () => {
    const site = smallSite((s) => {
      (s.stations[0] as { name: string }).name = "=1+1";
    });
    expect(stationsCsv(site, "metric").split("\n")[1]).toMatch(/^1,'=1\+1,/);
    expect(pasteStations(site, stationsCsv(site, "metric"), at, "metric")).toMatchObject({ ok: true, cells: [] });
  });
});
