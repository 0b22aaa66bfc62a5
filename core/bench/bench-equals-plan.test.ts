import fc from "fast-check";
import { expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { plan } from "../dispatch/plan.ts";
import { simulate } from "./simulate.ts";

const DATE = "2026-07-14";

it("without faults the exact bench runs the plan to the second, delivers its water, and trips nothing", () => {
  fc.assert(
    fc.property(randomSite({ stations: { min: 1, max: 12 }, windows: true }), (site) => {
      const planned = plan(site, DATE);
      const outcome = simulate(site, { date: DATE, exact: true });
      if (!outcome.ok) throw new Error("the bench refused");
      const { result } = outcome;
      const key = (r: { stationId: string; programId: string; start: string; end: string; cycle: number }) =>
        `${r.start} ${r.end} ${r.stationId} ${r.programId} ${r.cycle}`;
      expect(result.runs.map(key).sort()).toEqual(planned.runs.map(key).sort());
      expect(result.alarms).toEqual([]);
      const litres = planned.runs.reduce(
        (sum, r) => sum + ((r.flowLpm ?? 0) * (Date.parse(r.end) - Date.parse(r.start))) / 60_000,
        0,
      );
      expect(result.totals.deliveredL).toBeCloseTo(litres, 4);
      const short = (list: { stationId: string; minutes: number }[]) =>
        list.reduce((sum, s) => sum + Math.round(s.minutes * 60), 0);
      expect(short(result.unwatered)).toBe(short(planned.shortfalls));
    }),
    { numRuns: 25, seed: 13 },
  );
}, 120_000);

it("whatever breaks, no station is locked that the fault was not on, and nothing runs past a lockout", () => {
  const fault = fc.record({
    kind: fc.constantFrom("brokenLateral", "clogged"),
    station: fc.nat(20),
    at: fc.integer({ min: 0, max: 3000 }),
  });
  fc.assert(
    fc.property(randomSite({ stations: { min: 3, max: 10 }, windows: false }), fault, (site, f) => {
      const subject = site.stations[f.station % site.stations.length] as (typeof site.stations)[number];
      const outcome = simulate(site, {
        date: DATE,
        exact: true,
        faults: [
          {
            at: `+${f.at}`,
            kind: f.kind,
            subjectId: subject.id,
            ...(f.kind === "clogged" ? { size: 0.9 } : { size: 200 }),
          },
        ],
      });
      if (!outcome.ok) throw new Error("the bench refused");
      const { result } = outcome;
      for (const id of result.lockouts) expect(id).toBe(subject.id);
      for (const lock of result.events.filter((e) => e.type === "lockedOut"))
        for (const run of result.runs.filter((r) => r.stationId === lock.subjectId))
          expect(Date.parse(run.end)).toBeLessThanOrEqual(Date.parse(lock.at));
      for (const alarm of result.alarms) expect(alarm.message.length).toBeGreaterThan(20);
    }),
    { numRuns: 25, seed: 17 },
  );
}, 120_000);
