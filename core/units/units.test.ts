import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { arithmetic } from "./arithmetic.ts";
import { fromShown, showQuantity, toShown, type Quantity } from "./units.ts";
import { inputFromShown, inputToShown, inputUnit } from "./input-units.ts";

describe("units", () => {
  it("go out and come back without rounding", () => {
    const quantity = fc.constantFrom<Quantity>(
      "flow",
      "pressure",
      "length",
      "diameter",
      "volume",
      "velocity",
      "area",
      "depth",
      "rainRate",
    );
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1e6, noNaN: true }),
        quantity,
        fc.constantFrom("us" as const, "metric" as const),
        (v, q, s) => {
          expect(fromShown(toShown(v, q, s), q, s)).toBeCloseTo(v, 6);
        },
      ),
    );
  });
  it("use the exact factors", () => {
    expect(toShown(3.785411784, "flow", "us")).toBe(1);
    expect(toShown(6.894757293, "pressure", "us")).toBe(1);
    expect(showQuantity(1240, "flow", "metric")).toBe("1,240 L/min");
  });
});

describe("arithmetic in number fields", () => {
  it.each([
    ["3*12.5", 37.5],
    ["(40+2)/3", 14],
    ["1,200", 1200],
    ["-3+5", 2],
    ["2×4", 8],
    [".5", 0.5],
    ["7 - 2 * 3", 1],
  ])("%s is %d", (text, value) => {
    expect(arithmetic(text)).toBe(value);
  });
  it.each(["", "abc", "3*", "1/0", "2+(3", "alert(1)", "1 2"])("%s is not a number", (text) => {
    expect(arithmetic(text)).toBeNull();
  });
});

describe("readings of weather inputs", () => {
  it("are shown in the system's units and come back as they were", () => {
    const shown = (kind: Parameters<typeof inputUnit>[0], value: number): [number, string] => {
      const u = inputUnit(kind, "us");
      return [Number(inputToShown(value, u).toFixed(9)), u.label];
    };
    expect([
      shown("temperature", 0),
      shown("freeze", 100),
      shown("rain", 25.4),
      shown("moisture", 30),
      shown("switch", 1),
    ]).toEqual([
      [32, "°F"],
      [212, "°F"],
      [1, "in"],
      [30, "%"],
      [1, "0 or 1"],
    ]);
    expect(shown("wind", 0.44704)[0]).toBeCloseTo(1, 9);
    for (const kind of ["rain", "wind", "freeze", "moisture", "temperature", "switch"] as const)
      for (const system of ["us", "metric"] as const)
        expect(inputFromShown(inputToShown(17.3, inputUnit(kind, system)), inputUnit(kind, system))).toBeCloseTo(
          17.3,
          9,
        );
  });
});
