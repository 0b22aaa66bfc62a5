import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { compareMeter, type MeterInterval } from "./meter-comparison.ts";

/** Weeks of summer and of spring. */
const SENSORS: [litres: number, days: number][] = [
  [40_000, 7],
  [12_000, 7],
  [55_000, 10],
  [8000, 14],
];
const readAs = (meter: (litres: number, days: number) => number): MeterInterval[] =>
  SENSORS.map(([sensorL, days]) => ({ sensorL, days, meterL: meter(sensorL, days) }));

describe("a meter beside the sensors", () => {
  it("agrees within what both can tell", () => {
    expect(compareMeter(readAs((l) => l * 1.012))).toEqual({ is: "agrees", share: expect.closeTo(0.012, 6) });
    expect(compareMeter([])).toEqual({ is: "none" });
  });
  it("that counts so many times what they read, however much flows, says their constant", () => {
    expect(compareMeter(readAs((l) => l * 1.12))).toEqual({ is: "constant", factor: expect.closeTo(1.12, 6) });
    expect(compareMeter(readAs((l) => l * 0.9))).toEqual({ is: "constant", factor: expect.closeTo(0.9, 6) });
  });
  it("that counts so much more a day, whatever is watered, says water that they do not see", () => {
    expect(compareMeter(readAs((l, d) => l + 400 * d))).toEqual({ is: "unseen", litresADay: expect.closeTo(400, 6) });
    const winter = [{ sensorL: 0, meterL: 3000, days: 30 }];
    expect(compareMeter(winter)).toEqual({ is: "unseen", litresADay: 100 });
  });
  it("read twice only, says that they differ and not why", () => {
    expect(compareMeter(readAs((l) => l * 1.12).slice(0, 1))).toMatchObject({ is: "either" });
  });
  it("that neither explains is told so", () => {
    expect(compareMeter(readAs((l, d) => (d === 7 ? l * 1.3 : l * 0.8)))).toMatchObject({ is: "neither" });
  });
  it("never takes a wrong constant for a leak, nor a leak for a wrong constant", () => {
    const noisy = fc.array(fc.double({ min: -0.01, max: 0.01, noNaN: true }), { minLength: 4, maxLength: 4 });
    fc.assert(
      fc.property(noisy, fc.double({ min: 1.06, max: 1.5, noNaN: true }), (noise, factor) => {
        const read = readAs((l) => l * factor).map((i, n) => ({ ...i, meterL: i.meterL * (1 + (noise[n] ?? 0)) }));
        expect(compareMeter(read).is).not.toBe("unseen");
      }),
    );
    fc.assert(
      fc.property(noisy, fc.double({ min: 150, max: 3000, noNaN: true }), (noise, aDay) => {
        const read = readAs((l, d) => l + aDay * d).map((i, n) => ({ ...i, meterL: i.meterL * (1 + (noise[n] ?? 0)) }));
        expect(compareMeter(read).is).not.toBe("constant");
      }),
    );
  });
});
