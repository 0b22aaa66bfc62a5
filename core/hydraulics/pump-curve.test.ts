import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { check } from "../check/check.ts";
import type { DeviceOf } from "../site-file/schema.ts";
import { pumpHeadM, pumpPoints } from "./device-loss.ts";
import { pressureStudy } from "./pressures.ts";

type Points = [flowLpm: number, headM: number][];
const pump = (points: Points): DeviceOf<"pump"> => ({
  id: "pump",
  kind: "pump",
  curve: points.map(([flowLpm, headM]) => ({ flowLpm, headM })),
});
const site = (points: Points) =>
  smallSite((s) => {
    s.pocs[0]?.devices.unshift(pump(points));
    Object.assign(s.sources[0] as object, { staticPressureKpa: 100 });
    s.mainlines[0]?.pipes.push({
      id: "run",
      kind: "pipe",
      material: "PVC",
      series: "SCH40",
      nominal: "3 in",
      lengthM: 100,
    });
    for (const x of s.stations) x.requiredKpa = 200;
  });
const CURVES: [string, Points][] = [
  [
    "in falling order",
    [
      [200, 30],
      [100, 40],
      [0, 50],
    ],
  ],
  [
    "out of order",
    [
      [100, 40],
      [0, 50],
      [200, 30],
    ],
  ],
  [
    "with a flow twice",
    [
      [0, 50],
      [100, 45],
      [100, 40],
      [200, 30],
    ],
  ],
  [
    "of one flow only",
    [
      [100, 50],
      [100, 40],
    ],
  ],
];

describe("a pump curve as somebody typed it", () => {
  it.each(CURVES)("%s gives pressures, and is named by check", async (_, points) => {
    const study = await pressureStudy(site(points), null);
    expect(study.alone).toHaveLength(3);
    for (const s of study.alone) expect(s.kPa).toBeGreaterThan(200);
    expect(check(site(points)).map((f) => f.code)).toContain("pumpCurveOrder");
  });
  it("is the same pump, in whatever order its points stand", () => {
    const [rising, mixed] = [
      pump([
        [0, 50],
        [100, 40],
        [200, 30],
      ]),
      pump([
        [100, 40],
        [200, 30],
        [0, 50],
      ]),
    ];
    expect(pumpPoints(mixed)).toEqual(pumpPoints(rising));
    expect(pumpHeadM(mixed, 150)).toBeCloseTo(35, 2);
  });
  it("at a flow twice is not taken for the better of the two", () => {
    expect(
      pumpHeadM(
        pump([
          [0, 50],
          [100, 45],
          [100, 40],
        ]),
        100,
      ),
    ).toBeCloseTo(40, 2);
  });
});
