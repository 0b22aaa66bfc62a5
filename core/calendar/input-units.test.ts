import { describe, expect, it } from "vitest";
import { inputFromShown, inputToShown, inputUnit } from "./input-units.ts";

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
