import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { instantOf } from "../dates/wall-time.ts";
import { meteredDays } from "./metered-days.ts";

const ZONE = "America/Los_Angeles";
const at = (date: string, clock = "00:00"): number => instantOf(ZONE, date, clock);
const stand = (t: number, m3: number, begins = false) => ({ at: t, m3, begins });

describe("water by the meter alone", () => {
  it("is shared out evenly between two readings, by the site's own days", () => {
    expect(meteredDays(ZONE, [stand(at("2026-07-01", "12:00"), 100), stand(at("2026-07-03", "12:00"), 148)])).toEqual([
      { day: "2026-07-01", litres: 12_000, seconds: 43_200 },
      { day: "2026-07-02", litres: 24_000, seconds: 86_400 },
      { day: "2026-07-03", litres: 12_000, seconds: 43_200 },
    ]);
  });
  it("knows a day of 25 hours, and nothing of before a meter begins", () => {
    const days = meteredDays(ZONE, [
      stand(at("2026-11-01"), 0),
      stand(at("2026-11-02"), 25),
      stand(at("2026-11-03"), 3, true),
      stand(at("2026-11-04"), 4),
    ]);
    expect(days).toEqual([
      { day: "2026-11-01", litres: 25_000, seconds: 90_000 },
      { day: "2026-11-03", litres: 1000, seconds: 86_400 },
    ]);
  });
  it("adds up to what the meter counted, whenever it is read", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 60, max: 40 * 86_400 }), fc.double({ min: 0, max: 900, noNaN: true })), {
          maxLength: 12,
        }),
        (steps) => {
          let [t, m3] = [at("2026-01-01", "07:13"), 1000];
          const stands = [stand(t, m3)];
          for (const [s, more] of steps) {
            t += s;
            m3 += more;
            stands.push(stand(t, m3));
          }
          const days = meteredDays(ZONE, stands);
          const sum = days.reduce((all, d) => all + d.litres, 0);
          expect(sum).toBeCloseTo(1000 * (m3 - 1000), 3);
          expect(days.reduce((all, d) => all + d.seconds, 0)).toBe(t - (stands[0]?.at ?? 0));
          expect(days.every((d) => d.litres >= 0 && d.seconds <= 90_000)).toBe(true);
        },
      ),
    );
  });
});
