import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import { adviceOf, comparedSchools } from "./advice.ts";
import { comparePolicies, readPolicies } from "./compare.ts";
import { judgedNight, type JudgedNight, policyFigures, type PolicyFigures, withSetsLearned } from "./judgement.ts";
import { remediesFor } from "./remedies.ts";

const DATE = "2026-07-14";
const learned = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    for (const x of s.stations)
      x.learned = { meanLpm: x.designFlowLpm as number, sdLpm: 1, at: "2026-05-01T00:00:00Z" };
    change(s);
  });
const figures = (night: JudgedNight, policy: Policy): PolicyFigures =>
  (policyFigures(night, [policy], { nights: 20 }) as PolicyFigures[])[0] as PolicyFigures;

describe("what a policy sees and costs", () => {
  it("a tighter band sees more, trips more for nothing, and a break costs less", () => {
    const site = learned();
    const night = judgedNight(site, DATE);
    const [tight, wide] = [2, 45].map((highPercent) =>
      figures(night, { ...site.policy, highPercent, lowPercent: highPercent, persistenceS: 5 }),
    );
    expect(tight?.falseTrips.perSeason).toBeGreaterThan(wide?.falseTrips.perSeason as number);
    expect(wide?.falseTrips.perSeason).toBe(0);
    expect(tight?.outletNever.length).toBeLessThan(wide?.outletNever.length as number);
    expect(tight?.lateralL?.mean).toBeLessThanOrEqual(wide?.lateralL?.mean as number);
  });
  it("a lateral that is seen costs hold-off and persistence, twice with the search; one unseen its whole run", () => {
    const site = learned((s) => {
      (s.programs[0] as SiteFile["programs"][number]).maxStationsAtOnce = 1;
    });
    const night = judgedNight(site, DATE);
    // 60 % of 100 L/min for 2 × (60 + 60) s; of 50 the half; the run of 10 min where nothing acts.
    expect(figures(night, site.policy).lateralL).toEqual({ mean: ((60 + 60 + 30) * 4) / 3, worst: 240, worstId: "s1" });
    expect(figures(night, { ...site.policy, highResponse: "notify" }).lateralL?.worst).toBe(600);
    expect(figures(night, { ...site.policy, highResponse: "stopStation" }).lateralL?.worst).toBe(120);
    expect(figures(night, { ...site.policy, highPercent: 70 }).lateralNever).toEqual(["s1", "s2", "s3"]);
  });
  it("is the same for a seed whatever else is compared with it, and can be cancelled", () => {
    const site = learned();
    const night = judgedNight(site, DATE);
    const tight = { ...site.policy, highPercent: 3, lowPercent: 3, persistenceS: 5 };
    const [alone] = policyFigures(night, [tight], { nights: 10 }) ?? [];
    const [, together] = policyFigures(night, [site.policy, tight], { nights: 10 }) ?? [];
    expect(together).toEqual(alone);
    expect(policyFigures(night, [tight], { onProgress: () => false })).toBeNull();
  });
  it("sets that draw less than their sum blind it until they are learned", () => {
    const site = learned((s) => {
      Object.assign(s.sources[0] as object, {
        staticPressureKpa: 350,
        pressureDropKpaAt: { flowLpm: 100, dropKpa: 120 },
      });
      s.policy.highPercent = 17;
    });
    const night = judgedNight(site, DATE);
    const together = night.stretches.findIndex((s) => s.stations.length > 1);
    expect(night.drawn[together]).toBeLessThan(0.97);
    const now = figures(night, site.policy);
    const after = figures(withSetsLearned(night), site.policy);
    const unseen = (f: PolicyFigures): number => f.lateralNever.length + f.lateralSometimes.length;
    expect(unseen(after)).toBeLessThan(unseen(now));
  });
});

describe("advice", () => {
  it("observes a site that is not learned, and says why; else takes the calm policy under which a break costs least", () => {
    const bare = comparedSchools(smallSite(), DATE, { nights: 10 });
    expect(bare?.advice).toEqual({ id: "observe", reasons: [{ code: "notLearned", learned: 0, stations: 3 }] });
    const ready = comparedSchools(learned(), DATE, { nights: 10 });
    expect(ready?.rows.map((r) => r.name)).toEqual([
      "As it stands",
      "The same, its sets learned",
      "Watchful",
      "Steady",
      "Forgiving",
      "Graded",
      "Observe",
    ]);
    expect(ready?.advice?.id).toBe("watchful");
    const rows = (ready?.rows ?? []).map((r) =>
      r.id === "watchful"
        ? { ...r, figures: { ...r.figures, falseTrips: { ...r.figures.falseTrips, perSeason: 9 } } }
        : r,
    );
    const other = adviceOf(learned(), rows);
    expect(other.id).not.toBe("watchful");
    expect(other.reasons).toContainEqual({ code: "falseTrips", name: "Watchful", perSeason: 9 });
  });
  it("tells what would make an unseen break seen, and what that costs in minutes", () => {
    const site = learned((s) => {
      s.policy.highPercent = 35;
      (s.stations[2] as { designFlowLpm: number }).designFlowLpm = 40;
      Object.assign(s.stations[2]?.learned as object, { meanLpm: 40 });
    });
    const [small] = remediesFor(judgedNight(site, DATE), site.policy, ["s3"]);
    // 24 of 140 L/min together with one of the large: 17 %, and alone it is seen at once.
    expect(small).toMatchObject({
      stationId: "s3",
      withIds: ["s1", "s3"],
      highPercent: 17,
      fewerAtOnce: { atOnce: 1, laterMin: 10 },
    });
  });
});

describe("presa compare", () => {
  it("one row a policy: what acts isolates, what notifies loses the water", () => {
    const site = smallSite();
    const asked = readPolicies(site, ["watchful", "observe", { name: "ours", ...site.policy, persistenceS: 30 }]);
    if (!asked.ok) throw new Error(asked.problem.message);
    const outcome = comparePolicies(site, {
      date: DATE,
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      policies: asked.policies,
      exact: true,
    });
    if (!outcome.ok || !("rows" in outcome)) throw new Error("refused");
    const [watchful, observe, ours] = outcome.rows;
    expect(watchful).toMatchObject({
      policy: "watchful",
      falseTrips: 0,
      lockouts: ["s1"],
      minutesNotWatered: expect.any(Number),
    });
    expect(observe).toMatchObject({ policy: "observe", secondsToIsolate: null, lockouts: [], minutesNotWatered: 0 });
    expect(observe?.litresLost).toBeGreaterThan(2 * (watchful?.litresLost as number));
    expect(ours?.secondsToIsolate).toBeLessThan(watchful?.secondsToIsolate as number);
  });
  it("says what is wrong with a policy, and where", () => {
    const site = smallSite();
    expect(readPolicies(site, ["bold"])).toMatchObject({ ok: false, problem: { path: "policies[0]" } });
    expect(readPolicies(site, [{ ...site.policy, colour: 1 }])).toMatchObject({
      ok: false,
      problem: { path: "policies[0].colour" },
    });
    expect(readPolicies(site, [])).toMatchObject({ ok: false });
  });
});
