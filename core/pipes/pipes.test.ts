import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { flowAtVelocityLpm, frictionLossM, pipeVolumeL, velocityMs } from "./flow-in-pipe.ts";
import { isCAssumed, PIPE_TABLE, pipeC, tableInsideDiameterMm } from "./pipe-table.ts";

describe("pipe table", () => {
  it.each([
    ["PVC", "SCH40", "4 in", 102.26],
    ["PVC", "SCH40", "2.5 in", 62.71],
    ["PVC", "SCH80", "2 in", 49.25],
    ["PVC", "SDR21", "3 in", 80.42],
    ["PVC", "SDR26", "4 in", 105.51],
    ["PE", "SDR11", "2 in", 49.35],
    ["Copper", "L", "1 in", 26.04],
    ["PVC-U", "PN10", "110 mm", 101.6],
    ["PE100", "PN16", "63 mm", 51.4],
    ["PE100", "PN10", "160 mm", 141],
  ])("%s %s %s has its standard's bore", (material, series, nominal, mm) => {
    expect(tableInsideDiameterMm(material, series, nominal)).toBeCloseTo(mm, 1);
  });
  it("reads sizes as people write them, and knows what it does not know", () => {
    expect(tableInsideDiameterMm("pvc", "Sch 40", "2-1/2 in")).toBe(tableInsideDiameterMm("PVC", "SCH40", "2.5 in"));
    expect(tableInsideDiameterMm("PVC", "SCH40", '1 1/4"')).toBe(tableInsideDiameterMm("PVC", "SCH40", "1.25 in"));
    expect(tableInsideDiameterMm("PVC", "SCH40", "5.5 in")).toBeNull();
    expect(tableInsideDiameterMm("clay", "old", "4 in")).toBeNull();
  });
  it("every bore is smaller than its outside and larger than the size before", () => {
    for (const series of PIPE_TABLE)
      series.sizes.forEach((s, i) => {
        expect(s.insideMm).toBeLessThan(s.outsideMm);
        if (i > 0) expect(s.insideMm).toBeGreaterThan(series.sizes[i - 1]?.insideMm ?? 0);
      });
  });
});

describe("how rough a pipe is", () => {
  it("is its own figure, else its material's, whatever that is called", () => {
    const c = (material: string): number => pipeC({ material });
    expect(pipeC({ material: "steel", hazenWilliamsC: 95 })).toBe(95);
    expect([c("PVC"), c("PE100"), c("Copper"), c("uPVC class 12"), c("HDPE")]).toEqual([150, 150, 140, 150, 150]);
    expect([c("steel"), c("Galvanized steel"), c("galvanised"), c("Old steel"), c("steel, old")]).toEqual([
      120, 120, 120, 100, 100,
    ]);
    expect([c("Ductile iron"), c("cast iron, lined")]).toEqual([130, 130]);
  });
  it("of a material that nobody knows is taken, and said to be", () => {
    expect(pipeC({ material: "clay" })).toBe(150);
    expect(isCAssumed({ material: "clay" })).toBe(true);
    expect(isCAssumed({ material: "clay", hazenWilliamsC: 110 })).toBe(false);
    expect(isCAssumed({ material: "steel" })).toBe(false);
  });
});

describe("flow in a pipe", () => {
  it("velocity and flow are inverse", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 5, noNaN: true }),
        fc.double({ min: 10, max: 400, noNaN: true }),
        (v, d) => {
          expect(velocityMs(flowAtVelocityLpm(v, d), d)).toBeCloseTo(v, 9);
        },
      ),
    );
  });
  it("friction follows Hazen–Williams: 10 L/s through 100 m of 100 mm at C 150 loses 1.46 m", () => {
    expect(frictionLossM(600, 100, 100, 150)).toBeCloseTo(1.46, 1);
    expect(frictionLossM(0, 100, 100, 150)).toBe(0);
  });
  it("300 m of 100 mm holds 2,356 L", () => {
    expect(pipeVolumeL(300, 100)).toBeCloseTo(2356, 0);
  });
});
