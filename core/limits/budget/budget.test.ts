import { describe, expect, it } from "vitest";
import { reckonedSite } from "../../../testing/reckoned-nights.ts";
import { smallSite } from "../../../testing/small-site.ts";
import { INVENTED } from "../../profiles/profile.ts";
import type { SiteFile } from "../../site-file/schema.ts";
import { judgedNight, policyFigures } from "../judgement.ts";
import { type BudgetOptions, type LimitsByBudget, limitsByBudget } from "./budget.ts";
import { figuresOf } from "./figures.ts";
import { Ground, USUAL_ASSUMPTIONS } from "./ground.ts";

const DATE = "2026-07-14";
const learned = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    for (const x of s.stations)
      x.learned = { meanLpm: x.designFlowLpm as number, sdLpm: 1, at: "2026-05-01T00:00:00Z" };
    change(s);
  });
const found = (site: SiteFile, options: Partial<BudgetOptions> = {}): LimitsByBudget => {
  const made = limitsByBudget(site, DATE, { trips: 1, profiles: INVENTED, ...options });
  if (!made) throw new Error("given up");
  return made;
};

describe("what limits trip and lose", () => {
  it("trips as often as nights that are drawn do", () => {
    const site = learned((s) => {
      Object.assign(s.policy, { highPercent: 2, lowPercent: 4, persistenceS: 5 });
    });
    const night = judgedNight(site, DATE);
    const reckoned = figuresOf(new Ground(night, USUAL_ASSUMPTIONS, 1), site);
    const [drawn] = policyFigures(night, [site.policy], { nights: 400, seed: 9 }) ?? [];
    expect(reckoned.tripsPerSeason).toBeGreaterThan(1);
    expect(reckoned.tripsPerSeason).toBeLessThan(drawn?.falseTrips.high ?? 0);
    expect(reckoned.tripsPerSeason).toBeGreaterThan(drawn?.falseTrips.low ?? 0);
  });
  it("of a break that is seen, hold-off and persistence and the search; unseen every night until somebody walks past", () => {
    const site = learned((s) => {
      (s.programs[0] as SiteFile["programs"][number]).maxStationsAtOnce = 1;
    });
    const assumed = { ...USUAL_ASSUMPTIONS, outletsPer100: 0, lateralsPer100: 100 };
    const ground = new Ground(judgedNight(site, DATE), assumed, 1);
    // 60 % of 100, 100 and 50 L/min for 2 × (60 + 60) s, each once.
    expect(figuresOf(ground, site).litresAYear).toBeCloseTo((60 + 60 + 30) * 4, -1);
    const blind = { ...site, policy: { ...site.policy, highPercent: 90 } };
    // 26 Tuesdays in 182 days: two of them in a fortnight, 10 min each.
    expect(figuresOf(ground, blind)).toMatchObject({
      litresAYear: expect.closeTo((60 + 60 + 30) * 20, 6),
      lateralsSeen: 0,
    });
    const telling = { ...site, policy: { ...site.policy, highResponse: "notify" as const } };
    expect(figuresOf(ground, telling).litresAYear).toBeCloseTo((60 + 60 + 30) * 10, -1);
  });
});

describe("limits by budget", () => {
  it("keep the budget, lose no more than any starting point that trips as seldom, and the curve falls", () => {
    const { best, schools, curve, now } = found(learned());
    if (!best) throw new Error("none");
    expect(best.figures.tripsPerSeason).toBeLessThanOrEqual(1);
    for (const s of [...schools, now])
      if (s.figures.tripsPerSeason <= 1)
        expect(best.figures.litresAYear).toBeLessThanOrEqual(s.figures.litresAYear * 1.0001);
    expect(curve.length).toBeGreaterThan(3);
    for (const [k, c] of curve.entries())
      if (k > 0)
        expect(c.figures.litresAYear).toBeLessThanOrEqual((curve[k - 1] as typeof c).figures.litresAYear * 1.01);
  });
  it("on nights that the search has not seen, lose no more than any starting point at the same trips", () => {
    for (const seed of [2001, 2002]) {
      const site = reckonedSite(seed, 14).known;
      const { curve, schools } = found(site, { trips: 1 });
      const fresh = new Ground(judgedNight(site, DATE), USUAL_ASSUMPTIONS, 5000 + seed);
      const points = curve.map((p) => figuresOf(fresh, p.site));
      for (const school of schools) {
        const { tripsPerSeason, litresAYear } = figuresOf(fresh, school.site);
        const rivals = points.filter((p) => p.tripsPerSeason <= Math.max(0.02, tripsPerSeason));
        expect(Math.min(...rivals.map((p) => p.litresAYear))).toBeLessThanOrEqual(1.005 * litresAYear);
      }
    }
  }, 120_000);
  it("take the steps and the ranges of the controllers, and no hold-off in which valves still settle", () => {
    const site = learned((s) => {
      (s.controllers[0] as SiteFile["controllers"][number]).profileId = "invented-middle";
      (s.mainlines[0] as SiteFile["mainlines"][number]).holdOffS = 20;
    });
    for (const { site: s } of found(site).curve) {
      expect(s.mainlines[0]?.holdOffS).toBe(20);
      expect(s.policy.persistenceS).toBeGreaterThanOrEqual(30);
      for (const x of [s.policy, ...s.stations])
        for (const p of [x.highPercent, x.lowPercent])
          if (p !== undefined) expect([Number.isInteger(p), p >= 10]).toEqual([true, true]);
    }
    expect(found(learned()).best?.site.mainlines[0]?.holdOffS).toBe(30);
  });
  it("are the same for a seed; with nothing that runs there are none; they can be given up", () => {
    expect(found(learned(), { seed: 4 })).toEqual(found(learned(), { seed: 4 }));
    const still = learned((s) => {
      s.programs = [];
    });
    expect(found(still)).toMatchObject({ best: null, curve: [] });
    expect(limitsByBudget(learned(), DATE, { trips: 1, profiles: [], onProgress: () => false })).toBeNull();
    let told = 0;
    expect(limitsByBudget(learned(), DATE, { trips: 1, profiles: [], onProgress: () => ++told < 9 })).toBeNull();
  });
});
