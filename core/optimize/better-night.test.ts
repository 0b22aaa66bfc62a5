import fc from "fast-check";
import { expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { plan } from "../dispatch/plan.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { betterNight } from "./better-night.ts";

it("settings put into the file give that plan from the plain command, never later and never shorter", () => {
  fc.assert(fc.property(randomSite({ stations: { min: 2, max: 14 }, windows: false }), (site) => {
    let tries = 0;
    const better = betterNight(site, "2026-07-14", { seed: 1, shouldStop: () => ++tries > 60 });
    const changed: SiteFile = {
      ...site,
      programs: site.programs.map((p) => {
        const s = better.settings.programs.find((x) => x.id === p.id);
        return s ? { ...p, priority: s.priority, maxStationsAtOnce: s.maxStationsAtOnce, starts: s.starts, runs: s.order.map((id) => p.runs.find((r) => r.stationId === id) as (typeof p.runs)[number]) } : p;
      }),
    };
    const before = plan(site, "2026-07-14");
    const after = plan(changed, "2026-07-14");
    expect([after.makespanS, after.shortfalls]).toEqual([better.makespanS, better.shortfalls]);
    expect(after.makespanS).toBeLessThanOrEqual(before.makespanS);
  }), { numRuns: 12, seed: 2 });
}, 60_000);
