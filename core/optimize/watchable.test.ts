import { describe, expect, it } from "vitest";
import { reckonedSite } from "../../testing/reckoned-nights.ts";
import { smallSite } from "../../testing/small-site.ts";
import { playNight } from "../dispatch/plan.ts";
import { withLimitsOf } from "../limits/budget/take.ts";
import { judgedNight, policyFigures } from "../limits/judgement.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { shortByStation } from "./night-score.ts";
import { settingChanges } from "./settings-changes.ts";
import { type WatchableOptions, type WatchableNights, watchableNights } from "./watchable.ts";
import { NightWatch } from "./watched-night.ts";

const DATE = "2026-07-14";
const nights = (site: SiteFile, tries: number, more: Partial<WatchableOptions> = {}): WatchableNights => {
  let left = tries;
  return watchableNights(site, DATE, { seed: 5, shouldStop: () => left-- <= 0, ...more });
};

describe("what the limits see on a night", () => {
  it("is what the starting points are judged by, for the same policy", () => {
    for (const seed of [11, 12, 13]) {
      const site = reckonedSite(seed, 24).known;
      const watched = new NightWatch(site, DATE).watch(site.programs);
      const [figures] = policyFigures(judgedNight(site, DATE), [site.policy], { nights: 1 }) ?? [];
      expect(watched.unseen.map((s) => site.stations[s]?.id).sort()).toEqual([...(figures?.lateralNever ?? [])].sort());
      expect(watched.stations - watched.lateralsSeenInEvery).toBe(
        (figures?.lateralNever.length ?? 0) + (figures?.lateralSometimes.length ?? 0),
      );
      expect(watched.watched).toBeCloseTo(figures?.watched ?? -1, 9);
    }
  });
});

describe("nights that can be watched", () => {
  const site = smallSite((s) => {
    s.policy.highPercent = 45;
    for (const x of s.stations) x.designFlowLpm = 70;
    s.site.maxStationsAtOnce = undefined;
  });
  it("see every broken lateral where that can be had, and say what it costs in minutes", () => {
    const { now, frontier } = nights(site, 60);
    // Two at once: 42 of 140 L/min is 30 %. One at a time it is 60 %.
    expect(now).toMatchObject({ makespanS: 1200, lateralsSeen: 1, stations: 3 });
    expect(frontier.at(-1)).toMatchObject({ makespanS: 1800, lateralsSeen: 3, lateralsSeenInEvery: 3 });
  });
  it("stand in order, each longer one seeing more; they leave nobody shorter and turn only what controllers take", () => {
    const known = reckonedSite(21, 24).known;
    for (const every of [false, true]) {
      const { now, frontier, tries } = nights(known, 120, { every });
      const aim = (n: (typeof frontier)[number]): number =>
        (every ? n.lateralsSeenInEvery : n.lateralsSeen) + 0.999 * (n.watched ?? 0);
      expect(tries).toBeGreaterThan(100);
      for (const [i, n] of frontier.entries()) {
        const before = frontier[i - 1];
        if (before) expect([n.makespanS > before.makespanS, aim(n) > aim(before)]).toEqual([true, true]);
        const after = { ...known, programs: n.programs };
        const short = shortByStation(playNight(waterworks(after), DATE));
        for (const [s, x] of short) expect(x).toBeLessThanOrEqual(now.short.get(s) ?? 0);
        expect(settingChanges(known, after).every((c) => ["order", "priority", "atOnce"].includes(c.kind))).toBe(true);
        const minutes = (f: SiteFile): number =>
          f.programs.reduce((sum, p) => sum + p.runs.reduce((a, r) => a + r.minutes, 0), 0);
        expect(minutes(after)).toBe(minutes(known));
      }
      // The night as it is, or one that is better in both.
      expect(frontier.some((n) => n.makespanS <= now.makespanS && aim(n) >= aim(now) - 1e-9)).toBe(true);
    }
  });
  it("are the same for a seed, and tell what they have found when stopped", () => {
    expect(nights(site, 40)).toEqual(nights(site, 40));
    expect(nights(site, 0)).toMatchObject({ tries: 1, frontier: [{ lateralsSeen: 1 }] });
  });
  it("where the limits as they stand do not show everything, come with limits by budget that keep it", () => {
    const blind = smallSite((s) => {
      s.policy.highPercent = 65;
      for (const x of s.stations) x.learned = { meanLpm: 70, sdLpm: 1, at: "2026-05-01T00:00:00Z" };
    });
    const { now, frontier } = nights(blind, 2000, { budget: { trips: 1, profiles: [] } });
    expect(now).toMatchObject({ lateralsSeen: 0, limits: null });
    const best = frontier.at(-1);
    expect(best).toMatchObject({ lateralsSeen: 3 });
    expect(best?.limits?.tripsPerSeason).toBeLessThanOrEqual(1);
    if (!best?.limits) throw new Error("no limits");
    expect(new NightWatch(withLimitsOf(blind, best.limits), DATE).watch(best.programs)).toMatchObject({
      lateralsSeen: 3,
      makespanS: best.makespanS,
      watched: best.watched,
    });
  });
});
