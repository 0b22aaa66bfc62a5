import { describe, expect, it } from "vitest";
import { reckonedSite } from "../../testing/reckoned-nights.ts";
import { plan } from "../dispatch/plan.ts";
import { stretchesOf } from "../limits/stretches.ts";
import { waterworks } from "../network/waterworks.ts";
import { neverApart } from "../reckon/apart.ts";
import { plannedStretches } from "../reckon/planned.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { partedNights } from "./parted-night.ts";

const NIGHT = "2026-07-14";

/** Pairs of stations with the same minutes, two at once: each with its neighbour, every night. */
function pairs(stations: number): SiteFile {
  const site = structuredClone(reckonedSite(5, stations).known);
  for (const s of site.stations) {
    s.enteredFlowLpm = 40;
    for (const of of ["learned", "cycle", "soakMin"] as const) delete s[of];
  }
  site.programs = [
    {
      ...(site.programs[0] as SiteFile["programs"][number]),
      maxStationsAtOnce: 2,
      runs: site.stations.map(({ id }, i) => ({ stationId: id, minutes: 10 + 2 * Math.floor(i / 2) })),
    },
  ];
  return site;
}

/** Groups that the night of a site, as planned, leaves together. */
const together = (site: SiteFile): string[][] => {
  const w = waterworks(site);
  const { stretches } = plannedStretches(w, stretchesOf(w, plan(site, NIGHT).runs), 60);
  return neverApart(stretches).flatMap((g) => (g.length > 1 ? [g.map((s) => site.stations[s]?.id ?? "")] : []));
};
const minutesOf = (site: SiteFile): Record<string, number> =>
  Object.fromEntries(site.programs.flatMap((p) => p.runs.map((r) => [r.stationId, r.minutes])));

describe("an order that parts stations that always ran together", () => {
  const site = pairs(8);
  const found = partedNights(site, NIGHT, { seed: 1, shouldStop: () => false });
  it("knows them by the night itself where no nights are given", () => {
    expect(found.now.together).toEqual(together(site));
    expect(found.now.together).toHaveLength(4);
    expect(found.asked).toBe(4);
  });
  it("parts them at no cost in minutes, by what the dispatcher then plays, and changes nothing but the order", () => {
    const { free, now } = found;
    expect(free.together).toEqual([]);
    expect(free.makespanS).toBeLessThanOrEqual(now.makespanS);
    const after = { ...site, programs: free.programs };
    expect(together(after)).toEqual([]);
    expect(minutesOf(after)).toEqual(minutesOf(site));
    expect(free.moved).toBeGreaterThan(0);
    expect(found.most).toEqual(free);
  });
  it("says what it costs where it cannot be free", () => {
    const two = structuredClone(site);
    const [program] = two.programs;
    if (!program) throw new Error("no program");
    program.runs = program.runs.slice(0, 2);
    const { now, free, most } = partedNights(two, NIGHT, { seed: 1, shouldStop: () => false });
    expect(free).toEqual(now);
    expect(most.together).toEqual([]);
    expect(most.makespanS).toBeGreaterThan(now.makespanS);
  });
  it("parts those that the nights could not tell, and leaves out who does not run", () => {
    const only = partedNights(site, NIGHT, { groups: [["s0", "s1"]], seed: 1, shouldStop: () => false });
    expect(only.asked).toBe(1);
    expect(only.free.together).toEqual([]);
    expect(only.free.moved).toBeLessThanOrEqual(2);
    const idle = structuredClone(site);
    for (const p of idle.programs) p.runs = p.runs.filter((r) => r.stationId !== "s0" && r.stationId !== "s1");
    expect(partedNights(idle, NIGHT, { groups: [["s0", "s1"]], seed: 1, shouldStop: () => false })).toMatchObject({
      asked: 0,
      tries: 0,
    });
  });
});
