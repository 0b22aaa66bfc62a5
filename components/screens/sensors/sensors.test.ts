import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { FlowSensor } from "@/core/site-file/schema";
import { latestCheck, withCheck } from "@/core/site-file/device-checks";
import { checksDone, SENSOR_CHECKS } from "./checklist";
import { keptK, keptPulse, LITRES, shownK, shownPulse, type VolumeUnit } from "./sheet-units";

describe("the sheet's own units", () => {
  it("go in and come out the same", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.001, max: 1e4, noNaN: true }),
        fc.constantFrom<VolumeUnit>("gal", "L", "m3", "ft3"),
        fc.boolean(),
        (v, unit, reciprocal) => {
          expect(
            shownPulse({
              type: "pulse",
              litresPerPulse: keptPulse(v, unit, reciprocal),
              sheetUnit: unit,
              sheetReciprocal: reciprocal,
            }) / v,
          ).toBeCloseTo(1, 9);
          for (const sheetUnit of ["gpm", "lpm"] as const)
            expect(shownK({ type: "frequency", kGpm: keptK(v, sheetUnit), offsetHz: 0, sheetUnit }) / v).toBeCloseTo(
              1,
              9,
            );
        },
      ),
    );
    expect(keptPulse(10, "gal", false)).toBeCloseTo(37.85411784, 9);
    expect(keptPulse(4, "ft3", true)).toBeCloseTo(LITRES.ft3 / 4, 9);
  });
});

describe("the wiring checklist", () => {
  const sensor: FlowSensor = { id: "f", kind: "flowSensor", output: { type: "frequency", kGpm: 1, offsetHz: 0 } };
  it("keeps every finding, and the newest counts", () => {
    const once = withCheck(sensor, {
      check: "drain",
      ok: false,
      note: " both ends ",
      by: "Ann",
      at: "2026-05-01T08:00:00Z",
    });
    const twice = withCheck(once, { check: "drain", ok: true, note: "", by: "Bo", at: "2026-05-02T08:00:00Z" });
    expect(checksDone(once)).toEqual({ done: 1, wrong: 1, of: SENSOR_CHECKS.length });
    expect(checksDone(twice)).toEqual({ done: 1, wrong: 0, of: SENSOR_CHECKS.length });
    expect(twice.checks).toHaveLength(2);
    expect(latestCheck(once, "drain")).toMatchObject({ note: "both ends", by: "Ann" });
    expect(latestCheck(sensor, "polarity")).toBeNull();
  });
});
