import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { arithmetic } from "./arithmetic.ts";
import { fromShown, showQuantity, toShown, type Quantity } from "./units.ts";

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
