import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { fillTime, pipeFacts, pumpFacts } from "../hydraulics/main-facts.ts";
import type { Mainline, Pipe } from "../site-file/schema.ts";
import { flowAtVelocityLpm } from "./flow-in-pipe.ts";
import { findSize, nominalMm, PIPE_TABLE } from "./pipe-table.ts";
import { sizeFor, sizesAt } from "./sizing.ts";
import { pipeRatingKpa, surgeKpa, waveSpeedMs } from "./surge.ts";

const pipe = (material: string, series: string, nominal: string, lengthM = 100): Pipe => ({
  id: "p1",
  kind: "pipe",
  material,
  series,
  nominal,
  lengthM,
});

describe("sizing", () => {
  it("gives the smallest size that keeps the velocity, and says what it may carry", () => {
    fc.assert(
      fc.property(fc.constantFrom(...PIPE_TABLE), fc.double({ min: 5, max: 3000, noNaN: true }), (series, lpm) => {
        const size = sizeFor(series, lpm, 1.5);
        const all = sizesAt(series, lpm, 1.5);
        if (!size) {
          expect(all.at(-1)?.mostLpm).toBeLessThan(lpm);
          return;
        }
        expect(size.velocityMs).toBeLessThanOrEqual(1.5 + 1e-9);
        const smaller = all[all.findIndex((s) => s.nominal === size.nominal) - 1];
        if (smaller) expect(smaller.velocityMs).toBeGreaterThan(1.5);
        expect(size.mostLpm).toBeCloseTo(flowAtVelocityLpm(1.5, size.insideMm), 9);
      }),
    );
  });
  it("friction falls from size to size", () => {
    for (const series of PIPE_TABLE)
      sizesAt(series, 200, 1.5).forEach((s, i, all) => {
        if (i > 0) expect(s.lossPer100).toBeLessThan(all[i - 1]?.lossPer100 ?? 0);
      });
  });
});

describe("ratings and surge", () => {
  // The standards' own printed figures: ASTM D1785 table of pressure ratings, D2241 ratios.
  it.each([
    ["PVC", "SCH40", "2 in", 280],
    ["PVC", "SCH40", "4 in", 220],
    ["PVC", "SCH80", "4 in", 320],
    ["PVC", "SDR21", "4 in", 200],
    ["PVC", "SDR26", "6 in", 160],
    ["PE", "SDR11", "2 in", 160],
  ] as const)("%s %s %s carries %d psi", (m, s, n, psi) => {
    expect(Math.abs((pipeRatingKpa(pipe(m, s, n)) as number) / 6.894757293 / psi - 1)).toBeLessThan(0.02);
  });
  it("PN pipe carries its PN", () => {
    expect(pipeRatingKpa(pipe("PE100", "PN16", "110 mm"))).toBe(1600);
  });
  it("waves are slow in plastic and fast in copper; Joukowsky at 1.5 m/s", () => {
    const [pvc, pe, copper] = [
      waveSpeedMs(pipe("PVC", "SCH40", "4 in")),
      waveSpeedMs(pipe("PE100", "PN10", "110 mm")),
      waveSpeedMs(pipe("Copper", "L", "2 in")),
    ] as [number, number, number];
    expect(pvc).toBeGreaterThan(330);
    expect(pvc).toBeLessThan(480);
    expect(pe).toBeLessThan(pvc);
    expect(copper).toBeGreaterThan(1000);
    expect(surgeKpa(400, 1.5)).toBeCloseTo(599, 0);
    expect(waveSpeedMs(pipe("clay", "old", "4 in"))).toBeNull();
  });
  it("says how wrong nominal would be", () => {
    expect(nominalMm("2 in")).toBeCloseTo(50.8, 6);
    expect(nominalMm("63 mm")).toBe(63);
    expect(findSize("PE100", "PN10", "63 mm")?.insideMm).toBeCloseTo(55.4, 6);
  });
});

describe("filling", () => {
  it("is the water of the main and of what hangs on it open, at what its feeds carry", () => {
    const site = smallSite((s) => {
      (s.mainlines[0] as Mainline).pipes = [{ ...pipe("as built", "–", "100", 300), insideDiameterMm: 100 }];
      (s.mainlines[0] as Mainline).ceilingLpm = 300;
      s.mainlines.push({
        id: "sub",
        name: "Sub",
        feedIds: ["main"],
        pipes: [{ ...pipe("as built", "–", "50", 100), id: "p2", insideDiameterMm: 50 }],
      });
    });
    expect(fillTime(site, "sub").litres).toBeCloseTo(196.3, 1);
    expect(fillTime(site, "main")).toMatchObject({
      litres: expect.closeTo(2356.2 + 196.3, 1),
      fillingLpm: 300,
      seconds: 511,
      mains: ["main", "sub"],
    });
    (site.mainlines[1] as Mainline).devices = [{ id: "mv2", kind: "masterValve", normally: "closed" }];
    expect(fillTime(site, "main").seconds).toBe(472); // 300 m of 100 mm at 300 L/min: 7.9 min (handbook#5-ceilings)
  });
});

describe("one pipe, one pump", () => {
  it("cautions where water is fast or surge passes the rating", () => {
    const site = smallSite((s) => {
      Object.assign(s.sources[0] as object, { staticPressureKpa: 800 });
    });
    expect(pipeFacts(site, pipe("PVC", "SCH40", "2 in"), 100)?.caution).toBeNull();
    expect(pipeFacts(site, pipe("PVC", "SCH40", "2 in"), 250)?.caution).toBe("fast");
    expect(pipeFacts(site, pipe("PVC", "SDR26", "2 in"), 190)?.caution).toBe("overRating");
    expect(pipeFacts(site, pipe("clay", "old", "4 in"), 100)).toBeNull();
  });
  it("a pump's sheet in words: shut-off, end, run-out, 115 %, all doubled by two side by side", () => {
    const pump = {
      id: "p",
      kind: "pump" as const,
      bestEfficiencyLpm: 200,
      minFlowLpm: 40,
      curve: [
        { flowLpm: 0, headM: 60 },
        { flowLpm: 300, headM: 30 },
      ],
    };
    expect(pumpFacts(pump)).toEqual({
      shutOffHeadM: 60,
      endOfCurveLpm: 300,
      runOutLpm: 450,
      bestEfficiencyLpm: 200,
      mostLpm: expect.closeTo(230, 9),
      minFlowLpm: 40,
      count: 1,
    });
    expect(pumpFacts({ ...pump, parallel: 2 })).toMatchObject({
      shutOffHeadM: 60,
      endOfCurveLpm: 600,
      mostLpm: expect.closeTo(460, 9),
      minFlowLpm: 40,
      count: 2,
    });
  });
});
