import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { FlowSensor } from "../site-file/schema.ts";
import { calibrate } from "./calibrate.ts";
import { effectiveKGpm, flowFromHz, hzFromFlow, sensorRange } from "./sensor-range.ts";

const sensor = (values: Partial<FlowSensor>): FlowSensor => ({
  id: "f",
  kind: "flowSensor",
  output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
  ...values,
});

describe("sensors", () => {
  it("flow and frequency are inverse, 0 Hz is no flow", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 200, noNaN: true }),
        fc.double({ min: 0.05, max: 20, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (hz, kGpm, offsetHz) => {
          const output = { type: "frequency" as const, kGpm, offsetHz };
          expect(hzFromFlow(output, flowFromHz(output, hz))).toBeCloseTo(hz, 6);
        },
      ),
    );
    expect(flowFromHz(sensor({}).output, 0)).toBe(0);
    expect(flowFromHz({ type: "pulse", litresPerPulse: 10 }, 0.1)).toBeCloseTo(60, 9);
  });
  it("range from velocity and bore unless stated", () => {
    expect(sensorRange(sensor({ insideDiameterMm: 77.9, vMinMs: 0.15 }))).toEqual({
      minLpm: expect.closeTo(42.9, 1),
      maxLpm: expect.closeTo(1715.8, 1),
    });
    expect(sensorRange(sensor({ minLpm: 8, insideDiameterMm: 77.9 })).minLpm).toBe(8);
    expect(sensorRange(sensor({}))).toEqual({ minLpm: null, maxLpm: null });
  });
  it("K of an insertion sensor follows the area", () => {
    expect(
      effectiveKGpm({ type: "frequency", kGpm: 2, offsetHz: 0, insideDiameterMm: 100, referenceDiameterMm: 50 }),
    ).toBe(8);
  });
});

describe("calibrate", () => {
  const meter = (kGpm: number, offsetHz: number, hz: number) => ({
    hz,
    seconds: 120,
    litres: 3.785411784 * kGpm * (hz + offsetHz) * 2,
  });
  it("one test scales K and keeps the offset", () => {
    const r = calibrate({ kGpm: 1.5, offsetHz: 0.3, tests: [meter(1.6, 0.3, 20)] });
    expect(r.ok && r.value).toMatchObject({
      kGpm: expect.closeTo(1.6, 9),
      offsetHz: 0.3,
      worstPercent: expect.closeTo(0, 9),
    });
  });
  it("recovers any sensor from two honest tests", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 10, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (k, offset) => {
          const r = calibrate({ tests: [meter(k, offset, 10), meter(k, offset, 60)] });
          expect(r.ok && Math.abs(r.value.kGpm - k)).toBeLessThan(1e-9);
        },
      ),
    );
  });
  it("refuses what means nothing, and says which", () => {
    const code = (request: Parameters<typeof calibrate>[0]) => {
      const r = calibrate(request);
      return r.ok ? "ok" : r.refusal.code;
    };
    expect(code({ tests: [] })).toBe("noTests");
    expect(code({ tests: [meter(1, 0, 10)] })).toBe("kMissing");
    expect(code({ tests: [{ hz: 0, litres: 1, seconds: 1 }] })).toBe("testNotPositive");
    expect(code({ tests: [meter(1, 0, 10), meter(1, 0, 14)] })).toBe("flowsTooClose");
    expect(
      code({
        tests: [
          { hz: 10, litres: 200, seconds: 60 },
          { hz: 30, litres: 100, seconds: 60 },
        ],
      }),
    ).toBe("slopeNotPositive");
  });
});
