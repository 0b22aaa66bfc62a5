import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { simulate } from "../bench/simulate.ts";
import { plan } from "../dispatch/plan.ts";
import type { Policy, Station } from "../site-file/schema.ts";
import { setLimits } from "../judge/set-limits.ts";
import { CALM, countBeyond, judgeReading } from "../judge/persistence.ts";
import { SCHOOLS } from "./schools.ts";
import { sightOf } from "./sight.ts";
import { watchedShare } from "./watched.ts";

const station = (values: Partial<Station>): Station => ({
  id: "s",
  number: 1,
  name: "S",
  controllerId: "c",
  mainlineId: "m",
  designFlowLpm: 100,
  ...values,
});
const policy: Policy = {
  basis: "station",
  highPercent: 20,
  lowPercent: 25,
  persistenceS: 60,
  highResponse: "notify",
  lowResponse: "notify",
};

describe("limits of a running set", () => {
  it("sum station by station, overrides included; unmonitored add to expected and high, nothing to low", () => {
    expect(
      setLimits(policy, [station({}), station({ highPercent: 50, lowPercent: 10 }), station({ monitored: false })]),
    ).toEqual({ expectedLpm: 300, highLpm: 120 + 150 + 120, lowLpm: 75 + 90, judged: true });
    expect(setLimits(policy, [station({ monitored: false })]).judged).toBe(false);
    expect(setLimits(policy, [station({ designFlowLpm: undefined })]).judged).toBe(false);
    expect(setLimits(policy, [station({})], 30).highLpm).toBe(150);
  });
  it("graded: the band with the largest fromLpm at or under expected; overrides do not apply; below the first band the plain figures", () => {
    const graded: Policy = {
      ...policy,
      basis: "graded",
      bands: [
        { fromLpm: 300, percent: 10 },
        { fromLpm: 150, percent: 30 },
      ],
    };
    expect(setLimits(graded, [station({ highPercent: 90 })])).toMatchObject({ highLpm: 120, lowLpm: 75 });
    expect(setLimits(graded, [station({}), station({})])).toMatchObject({ highLpm: 260, lowLpm: 140 });
    expect(setLimits(graded, [station({}), station({}), station({})]).highLpm).toBeCloseTo(330, 9);
  });
});

describe("persistence", () => {
  it("trips at the end of the n-th reading without a break, once for one unbroken condition", () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { maxLength: 60 }), fc.integer({ min: 1, max: 8 }), (readings, n) => {
        let state = CALM;
        let run = 0;
        for (const beyond of readings) {
          run = beyond ? run + 1 : 0;
          const next = countBeyond(state, beyond, n);
          expect(next.trips).toBe(run === n);
          state = next.state;
        }
      }),
    );
  });
});

describe("the other schools of persistence", () => {
  const trips = (judge: "share" | "mean" | "unbroken", excess: number[]): number[] => {
    let state = CALM;
    return excess.flatMap((x, i) => {
      const next = judgeReading(state, x, { persistenceS: 20, judge });
      state = next.state;
      return next.trips ? [i + 1] : [];
    });
  };
  const broken = Array.from({ length: 60 }, (_, i) => (i % 6 === 5 ? -1 : 5));
  it("a reading back inside every six seconds hides a break from the unbroken school, not from the others", () => {
    expect([trips("unbroken", broken), trips("share", broken), trips("mean", broken)]).toEqual([[], [20], [29]]);
  });
  it("none trips on calm readings, each once for one condition, again after it was over", () => {
    const calm = Array.from({ length: 40 }, () => -5);
    const twice = [...broken, ...calm, ...broken];
    for (const judge of ["unbroken", "share", "mean"] as const) expect(trips(judge, calm)).toEqual([]);
    expect([trips("share", twice).length, trips("mean", twice).length]).toEqual([2, 2]);
    expect(
      trips(
        "share",
        Array.from({ length: 60 }, (_, i) => (i % 2 ? 5 : -5)),
      ),
    ).toEqual([]);
  });
  it("on the bench find a lateral whose reading flutters", () => {
    const site = smallSite((s) => {
      s.policy.judge = "mean";
    });
    const outcome = simulate(site, {
      date: "2026-07-14",
      faults: [{ at: "+0", kind: "brokenLateral", subjectId: "s1", size: 60 }],
      exact: true,
    });
    expect(outcome.ok && outcome.result.lockouts).toEqual(["s1"]);
  });
});

describe("what a limit sees", () => {
  it("running together blinds it", () => {
    const site = smallSite((s) => {
      for (const x of s.stations) x.emitter = "rotor";
    });
    const [first] = sightOf(site, plan(site, "2026-07-14").runs);
    expect(first?.alone).toMatchObject({ seesOutlet: true, seesLateral: true, seesNeverOpens: true });
    expect(first?.fullest.with).toEqual(["s1", "s3"]);
    expect(first?.fullest.outletRatio).toBeLessThan(first?.alone.outletRatio ?? 0);
    expect(first?.best.with).toEqual(["s1", "s3"]);
    expect(sightOf(site, [])[0]?.best).toEqual(first?.alone);
  });
  it("sees nothing where nothing judges: a station that is not monitored, a system without a sensor", () => {
    const sees = (site: SiteFile) =>
      sightOf(site, plan(site, "2026-07-14").runs).map((s) => [s.alone.judged, s.alone.seesOutlet, s.fullest.judged]);
    const alone = smallSite((s) => {
      for (const x of s.stations) x.emitter = "rotor";
      Object.assign(s.stations[0] as object, { monitored: false });
    });
    // In company of a station that is watched its break is read with that one's.
    expect(sees(alone)).toEqual([
      [false, false, true],
      [true, true, true],
      [true, true, true],
    ]);
    const blind = smallSite((s) => {
      s.pocs[0]?.devices.pop();
    });
    expect(sees(blind).flat().some(Boolean)).toBe(false);
    const none = smallSite((s) => {
      for (const x of s.stations) x.monitored = false;
    });
    expect(watchedShare(none, plan(none, "2026-07-14").runs)).toBe(0);
  });
  it("a valve change every few minutes leaves part of the night unwatched", () => {
    const site = smallSite();
    const share = watchedShare(site, plan(site, "2026-07-14").runs);
    expect(share).toBeCloseTo((600 - 60) / 600, 6);
    expect(
      watchedShare(
        smallSite((s) => {
          s.policy.persistenceS = 541;
        }),
        plan(site, "2026-07-14").runs,
      ),
    ).toBe(0);
    expect(watchedShare(site, [])).toBeNull();
  });
  it("every school is a whole policy", () => {
    for (const s of SCHOOLS) expect(setLimits({ ...policy, ...s.policy }, [station({})]).highLpm).toBeGreaterThan(100);
  });
});
