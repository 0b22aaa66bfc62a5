import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { FlowSensor } from "../site-file/schema.ts";
import { LITRES_PER_US_GALLON } from "../units/units.ts";
import { fitBodies } from "./best-body.ts";
import { type ProvingRow, prove } from "./proving.ts";

const frequency = (kGpm: number, offsetHz = 0): FlowSensor => ({
  id: "f",
  kind: "flowSensor",
  output: { type: "frequency", kGpm, offsetHz },
});
const pulse = (litresPerPulse: number): FlowSensor => ({
  id: "p",
  kind: "flowSensor",
  output: { type: "pulse", litresPerPulse },
});
/** What a meter and a true sensor would show for a steady flow. */
const run = (kGpm: number, offsetHz: number, hz: number, seconds = 180): ProvingRow => ({
  startL: 1000,
  endL: 1000 + (LITRES_PER_US_GALLON * kGpm * (hz + offsetHz) * seconds) / 60,
  seconds,
  hz,
});
const refusal = (r: ReturnType<typeof prove>) => (r.ok ? "taken" : r.refusal.code);

describe("proving a sensor against the meter", () => {
  it("finds any honest constant within three times the sheet's", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 9, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        (k, offset, wrong) => {
          const r = prove(frequency(k * wrong, 0.2), [run(k, offset, 12), run(k, offset, 45), run(k, offset, 60)]);
          if (!r.ok || r.value.output.type !== "frequency") throw new Error(refusal(r));
          expect(r.value.output.kGpm / k).toBeCloseTo(1, 6);
          expect(r.value.output.offsetHz).toBeCloseTo(offset, 4);
          expect(r.value.factor).toBeCloseTo(1 / wrong, 5);
          expect(r.value.worstPercent).toBeLessThan(1e-3);
          expect(r.value.method).toBe("leastSquares");
        },
      ),
    );
  });
  it("one run scales K and keeps the offset; pulses counted over the time do as well as a frequency", () => {
    const one = prove(frequency(1, 0.3), [run(1.4, 0.3, 20)]);
    expect(one.ok && one.value.output).toMatchObject({ kGpm: expect.closeTo(1.4, 6), offsetHz: 0.3 });
    const { hz, ...rest } = run(1.4, 0.3, 20);
    expect(prove(frequency(1, 0.3), [{ ...rest, pulses: (hz as number) * 180 }])).toEqual(one);
  });
  it("an insertion sensor's sheet K is scaled, its bores are kept", () => {
    const sensor: FlowSensor = {
      ...frequency(1),
      output: { type: "frequency", kGpm: 1, offsetHz: 0, insideDiameterMm: 100, referenceDiameterMm: 50 },
    };
    const r = prove(sensor, [run(4.4, 0, 20)]);
    expect(r.ok && r.value.output).toMatchObject({
      kGpm: expect.closeTo(1.1, 6),
      insideDiameterMm: 100,
      referenceDiameterMm: 50,
    });
  });
  it("a pulse sensor is fitted through zero over 20 pulses or more", () => {
    const r = prove(pulse(10), [
      { startL: 0, endL: 303, seconds: 300, pulses: 30 },
      { startL: 303, endL: 708, seconds: 300, pulses: 40 },
    ]);
    expect(r.ok && r.value.output).toMatchObject({
      type: "pulse",
      litresPerPulse: expect.closeTo((303 * 30 + 405 * 40) / (900 + 1600), 6),
    });
    expect(refusal(prove(pulse(10), [{ startL: 0, endL: 50, seconds: 60, pulses: 5 }]))).toBe("tooFewPulses");
  });
  it("refuses what is not credible, with the reason and its figures", () => {
    const rows = [run(1, 0, 10), run(1, 0, 40)];
    expect(refusal(prove(frequency(1), []))).toBe("noTests");
    expect(refusal(prove(frequency(1), [{ startL: 90, endL: 80, seconds: 60, hz: 5 }]))).toBe("meterBackwards");
    expect(refusal(prove(frequency(1), [{ startL: 0, endL: 80, seconds: 0, hz: 5 }]))).toBe("testNotPositive");
    expect(refusal(prove(frequency(1), [{ startL: 0, endL: 80, seconds: 60 }]))).toBe("noSignal");
    expect(refusal(prove(frequency(1), [run(1, 0, 10), run(1, 0, 12)]))).toBe("flowsTooClose");
    expect(prove(frequency(8), rows)).toMatchObject({
      ok: false,
      refusal: { code: "factorTooLarge", factor: expect.closeTo(1 / 8, 6), limit: 3 },
    });
    expect(prove(frequency(1), [run(1, 0, 10), run(1, 0, 40), { ...run(1, 0, 25), hz: 32 }])).toMatchObject({
      ok: false,
      refusal: { code: "residualTooLarge", limit: 5 },
    });
    expect(prove(frequency(1), [run(1, 9, 10), run(1, 9, 40)])).toMatchObject({
      ok: false,
      refusal: { code: "offsetTooLarge", offsetHz: expect.closeTo(9, 6) },
    });
  });
});

describe("which body fits", () => {
  const bodies = [
    { label: "40", minLpm: 11, maxLpm: 450 },
    { label: "50", minLpm: 18, maxLpm: 700 },
    { label: "80", minLpm: 43, maxLpm: 1700 },
  ];
  it("is the one that sees the smallest station and reads the ceiling with most to spare", () => {
    expect(fitBodies(bodies, [30, 60, 90], 400)[0]?.label).toBe("50");
    expect(fitBodies(bodies, [13, 60, 90], 400)[0]?.label).toBe("40");
    expect(fitBodies(bodies, [100], 900).map((b) => b.label)).toEqual(["80", "50", "40"]);
  });
  it("none: the first leaves the fewest unseen, and says how many", () => {
    expect(fitBodies(bodies, [8, 20, 300], 500)[0]).toMatchObject({ label: "50", unseen: 1, reaches: true });
  });
});
