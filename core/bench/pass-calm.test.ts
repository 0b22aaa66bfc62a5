import fc from "fast-check";
import { expect, it } from "vitest";
import { FAULT_NIGHT_DATE, faultNight } from "../../testing/fault-nights.ts";
import { simulate } from "./simulate.ts";

it("passing over calm seconds changes nothing that happens", () => {
  fc.assert(
    fc.property(faultNight({ min: 3, max: 10 }), ({ site, fault }) => {
      const [slow, fast] = [false, true].map((passCalm) =>
        simulate(site, { date: FAULT_NIGHT_DATE, faults: [fault], exact: true, passCalm }),
      );
      if (!slow?.ok || !fast?.ok) throw new Error("refused");
      expect(fast.result.alarms).toEqual(slow.result.alarms);
      expect(fast.result.lockouts).toEqual(slow.result.lockouts);
      expect(fast.result.runs).toEqual(slow.result.runs);
      expect(fast.result.totals.lostL).toBeCloseTo(slow.result.totals.lostL, 3);
      expect(fast.result.totals.deliveredL).toBeCloseTo(slow.result.totals.deliveredL, 3);
      expect(fast.result.unwatered.map((u) => [u.stationId, Math.round(u.minutes * 60)])).toEqual(
        slow.result.unwatered.map((u) => [u.stationId, Math.round(u.minutes * 60)]),
      );
    }),
    { numRuns: 40, seed: 9 },
  );
}, 120_000);
