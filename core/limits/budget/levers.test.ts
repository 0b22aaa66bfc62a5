import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { reckonedSite } from "../../../testing/reckoned-nights.ts";
import { INVENTED } from "../../profiles/profile.ts";
import type { Policy, SiteFile } from "../../site-file/schema.ts";
import { judgedNight } from "../judgement.ts";
import { type Acting, actingOn } from "./acting.ts";
import { Ground, USUAL_ASSUMPTIONS } from "./ground.ts";
import { Ledger } from "./ledger.ts";
import { actingOf, type Levers, plainActing, rangesOf, siteWith } from "./levers.ts";
import { OwnPercents } from "./own-percents.ts";

const DATE = "2026-07-14";
const site: SiteFile = (() => {
  const { known } = reckonedSite(7, 45);
  const [first, second] = known.mainlines;
  return {
    ...known,
    mainlines: known.mainlines.map((m) => {
      if (m === first) return { ...m, policy: { judge: "mean" as const, highPercent: 31 }, holdOffS: 45 };
      return m === second ? { ...m, policy: { highResponse: "stopAll" as const, persistenceS: 77 } } : m;
    }),
    stations: known.stations.map((s, i) => ({
      ...s,
      ...(i % 7 === 0 ? { monitored: false } : {}),
      ...(i % 5 === 0 ? { highPercent: 44, holdOffS: 70 } : {}),
    })),
  };
})();
const ground = new Ground(judgedNight(site, DATE), USUAL_ASSUMPTIONS, 3);
const policy: Policy = { ...site.policy, highResponse: "findAndIsolate" };

const percent = fc.option(fc.integer({ min: 1, max: 60 }), { nil: undefined });
const levers: fc.Arbitrary<Levers> = fc.record({
  policy: fc
    .record({
      highPercent: fc.integer({ min: 1, max: 60 }),
      lowPercent: fc.integer({ min: 1, max: 60 }),
      persistenceS: fc.constantFrom(30, 60),
      retest: fc.boolean(),
    })
    .map((p): Policy => ({ ...policy, ...p })),
  holdOffS: fc.constantFrom(null, 30),
  mains: fc.array(
    fc.record({ highPercent: percent, lowPercent: percent, persistenceS: fc.constantFrom(undefined, undefined, 45) }),
    { minLength: site.mainlines.length, maxLength: site.mainlines.length },
  ),
  stations: fc.array(fc.record({ highPercent: percent, lowPercent: percent }), {
    minLength: site.stations.length,
    maxLength: site.stations.length,
  }),
});

describe("levers", () => {
  it("act as the site does that has them in it, whatever it had before", () => {
    fc.assert(
      fc.property(levers, (l) => {
        const fast = actingOf(ground, l, plainActing(ground, l));
        const slow = actingOn(ground, siteWith(site, l));
        expect(fast.judging).toEqual(slow.judging);
        expect(fast.again).toEqual(slow.again);
        for (const side of ["high", "low"] as const)
          for (const [i, ratio] of slow[side].entries()) expect(fast[side][i]).toBeCloseTo(ratio, 9);
      }),
      { numRuns: 25 },
    );
  });
  it("changed station by station they are reckoned as if they were reckoned anew", () => {
    fc.assert(
      fc.property(levers, fc.integer({ min: -9, max: 9 }), (l, step) => {
        const acting = (of: Levers): Acting => actingOf(ground, of, plainActing(ground, of));
        const cost = (ledger: Ledger): number => ledger.lostL + 200 * ledger.tripsPerSeason;
        const own = new OwnPercents(ground, l, acting(l), cost);
        const before = cost(own.ledger);
        own.round((p) => [Math.max(1, p + step)]);
        const anew = new Ledger(ground, acting(own.levers()));
        expect(own.ledger.lostL).toBeCloseTo(anew.lostL, 5);
        expect(own.ledger.tripsPerSeason).toBeCloseTo(anew.tripsPerSeason, 6);
        // What is as it is everywhere may cost a trifle.
        expect(cost(own.ledger)).toBeLessThanOrEqual(before * 1.05);
      }),
      { numRuns: 6 },
    );
  });
  it("stay within the narrowest of what the controllers take", () => {
    const narrow = { ...site, controllers: site.controllers.map((c) => ({ ...c, profileId: "invented-middle" })) };
    expect(rangesOf(narrow, INVENTED, 10)).toEqual({ percent: [10, 100], persistenceS: [30, 600] });
    expect(rangesOf(site, INVENTED, 10)).toEqual({ percent: [1, 100], persistenceS: [10, 600] });
  });
});
