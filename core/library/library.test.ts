import { describe, expect, it } from "vitest";
import type { Device } from "../site-file/schema.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { libraryCsv, parseLibraryCsv } from "./library-csv.ts";
import { bodyOf, type LibraryItem, parseBody, withBody } from "./library-item.ts";
import { TYPICAL, TYPICAL_NOTE } from "./typical.ts";

describe("the generic library", () => {
  it("every body is one that a site takes, and says that it is typical", () => {
    for (const item of TYPICAL) {
      expect(parseBody(item.body), item.name).toEqual({ ok: true, body: item.body });
      expect(item.note).toBe(TYPICAL_NOTE);
    }
    expect(new Set(TYPICAL.map((i) => i.name)).size).toBe(TYPICAL.length);
  });
  it("larger sizes carry more and sensor bodies see what their bore says", () => {
    const valves = TYPICAL.flatMap((i) => (i.body.kind === "masterValve" ? [i.body.kv ?? 0] : []));
    expect(valves).toEqual([...valves].sort((a, b) => a - b));
    for (const i of TYPICAL)
      if (i.body.kind === "flowSensor" && i.body.insideDiameterMm)
        expect(sensorRange({ id: "x", ...i.body } as Device & { kind: "flowSensor" }).minLpm).toBeGreaterThan(0);
  });
});

describe("the library as CSV", () => {
  it("comes back as it went out", () => {
    const own: LibraryItem[] = [
      ...TYPICAL,
      {
        name: 'Pair, "north"',
        note: "two, side by side",
        body: {
          kind: "pump",
          curve: [
            { flowLpm: 0, headM: 60 },
            { flowLpm: 200, headM: 40 },
          ],
          minFlowLpm: 30,
          parallel: 2,
        },
      },
      {
        name: "Insertion",
        note: "",
        body: {
          kind: "flowSensor",
          output: {
            type: "frequency",
            kGpm: 2.2,
            offsetHz: -0.4,
            insideDiameterMm: 77.9,
            referenceDiameterMm: 100,
            sheetUnit: "lpm",
          },
          vMinMs: 0.2,
        },
      },
      {
        name: "Poly",
        note: "",
        body: { kind: "pipe", material: "PE", series: "SDR11", nominal: "2 in", hazenWilliamsC: 145 },
      },
    ];
    expect(parseLibraryCsv(libraryCsv(own))).toEqual({ items: own, refused: [] });
  });
  it("a name that a spreadsheet would run as a formula is written harmless, and read back", () => {
    const item: LibraryItem = { name: "=1+1", note: "@x", body: { kind: "fixedLoss", lossKpa: 5 } };
    expect(libraryCsv([item]).split("\n")[1]).toMatch(/^'=1\+1,fixedLoss,'@x,/);
    expect(parseLibraryCsv(libraryCsv([item])).items).toEqual([item]);
  });
  it("rows that are not right are refused with line and reason; the others are taken", () => {
    const r = parseLibraryCsv(
      "name,kind,setKpa,curve\nA,regulator,300,\n,regulator,300,\nB,regulator,lots,\nC,teapot,,\nD,pump,,0-60\nA,regulator,200,\nE,regulator,99999,\n",
    );
    expect(r.items.map((i) => i.name)).toEqual(["A"]);
    expect(r.refused.map((x) => x.line)).toEqual([3, 4, 5, 6, 7, 8]);
    expect(r.refused[1]?.problem).toContain('"lots" is not a number');
    expect(parseLibraryCsv("hello").refused[0]?.problem).toContain("name the columns");
    expect(parseLibraryCsv("name,kind,colour\nA,meter,red").refused[0]?.problem).toContain('no column "colour"');
  });
});

describe("taking a device from the library", () => {
  it("brings its data sheet and keeps what belongs to the place", () => {
    const here: Device = { id: "m1", name: "Vault meter", serial: "77", kind: "meter", continuousMaxLpm: 5 };
    const item = TYPICAL.find((i) => i.name === "Water meter 2 in") as LibraryItem;
    expect(withBody(here, item)).toEqual({ ...item.body, id: "m1", name: "Vault meter", serial: "77" });
    expect(withBody({ id: "m1", kind: "meter" }, item)).toMatchObject({ name: "Water meter 2 in" });
    expect(withBody({ id: "r", kind: "regulator", setKpa: 3 }, item)).toEqual({
      id: "r",
      kind: "regulator",
      setKpa: 3,
    });
    expect(bodyOf(here)).toEqual({ kind: "meter", continuousMaxLpm: 5 });
  });
});
