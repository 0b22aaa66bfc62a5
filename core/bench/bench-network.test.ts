import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { BenchNetwork, type OpenState } from "./bench-network.ts";
import type { Fault } from "./faults/resolve.ts";
import { Plant, type PlantSecond } from "./plant.ts";

const sites = demoSites();
const state = (w: Waterworks, stations: number[], more: Partial<OpenState> = {}): OpenState => ({
  stations: stations.map((station) => ({ station, share: 1, brokenLpm: 0 })),
  breaks: [],
  pocLive: w.site.pocs.map(() => true),
  mainShut: w.site.mainlines.map(() => false),
  pumpOn: w.site.pocs.map(() => true),
  sourceShut: w.site.sources.map(() => false),
  pocDropKpa: w.site.pocs.map(() => 0),
  sourceDropKpa: w.site.sources.map(() => 0),
  ...more,
});
let keys = 0;
const solve = (w: Waterworks, s: OpenState) => BenchNetwork.of(w).solve(`test ${keys++}`, () => s);
const expected = (site: SiteFile, s: number): number =>
  expectedFlow(site.stations[s] as SiteFile["stations"][number])?.lpm ?? 0;
const withFlow = (site: SiteFile): number[] =>
  site.stations.flatMap((s, i) => (expected(site, i) > 0 && s.usesPump !== false ? [i] : []));

describe.each(sites.map((s) => [s.site.name, s] as const))("station flow by pressure: %s", (_, site) => {
  const w = waterworks(site);
  const some = withFlow(site).slice(0, 24);
  it("alone each gives its expected flow, together less each, and the connections carry what comes out", () => {
    for (const s of some)
      expect((solve(w, state(w, [s])).ownLpm.get(s) as number) / expected(site, s)).toBeCloseTo(1, 2);
    const set = some.slice(0, 5);
    const together = solve(w, state(w, set));
    let out = 0;
    for (const s of set) {
      expect(together.ownLpm.get(s) as number).toBeLessThanOrEqual(expected(site, s) * 1.001);
      out += together.ownLpm.get(s) as number;
    }
    expect(together.pocLpm.reduce((a, b) => a + b, 0)).toBeCloseTo(out, 1);
  });
  it("a break takes pressure from the others; clogging and a pressure drop take flow; with nothing live nothing flows", () => {
    const [a, b] = some as [number, number];
    const calm = solve(w, state(w, [a, b]));
    const broken = solve(w, {
      ...state(w, [a, b]),
      stations: [
        { station: a, share: 1, brokenLpm: 0.6 * expected(site, a) },
        { station: b, share: 1, brokenLpm: 0 },
      ],
    });
    expect(broken.brokenLpm.get(a) as number).toBeGreaterThan(0.3 * expected(site, a));
    expect(broken.ownLpm.get(b) as number).toBeLessThanOrEqual((calm.ownLpm.get(b) as number) + 1e-6);
    expect(
      solve(w, { ...state(w, [a]), stations: [{ station: a, share: 0.6, brokenLpm: 0 }] }).ownLpm.get(a) as number,
    ).toBeLessThan(0.85 * expected(site, a));
    expect(
      solve(
        w,
        state(w, [a], { sourceDropKpa: site.sources.map(() => 60), pocDropKpa: site.pocs.map(() => 20) }),
      ).ownLpm.get(a) as number,
    ).toBeLessThan(0.99 * expected(site, a));
    expect([...solve(w, state(w, [a, b], { pocLive: site.pocs.map(() => false) })).ownLpm.values()]).toEqual([0, 0]);
  });
});

describe("what is known is used again", () => {
  it("by the same site under another policy, not by one with other pipes", () => {
    const [site] = sites as [SiteFile];
    const network = BenchNetwork.of(waterworks(site));
    expect(BenchNetwork.of(waterworks({ ...site, policy: { ...site.policy, highPercent: 77 } }))).toBe(network);
    expect(BenchNetwork.of(waterworks({ ...site, mainlines: [...site.mainlines] }))).not.toBe(network);
  });
  it("a plant that looks again only when something turned reads the same as one that looks at every second", () => {
    const [site] = sites as [SiteFile];
    const w = waterworks(site);
    const at = Date.parse("2026-11-25T22:10:00-08:00") / 1000;
    const faults: Fault[] = [
      { from: at + 40, to: at + 70, kind: "brokenLateral", subjectId: site.stations[1]?.id as string, size: 12 },
      { from: at + 55, to: at + 90, kind: "supplyClosed", subjectId: site.sources[0]?.id as string, size: 0 },
      { from: at + 20, to: at + 80, kind: "stuckOpen", subjectId: site.stations[2]?.id as string, size: 0 },
    ];
    const play = (same: boolean): PlantSecond[] => {
      const plant = new Plant(w, new CapacityCalendar(w, "2026-11-25"), faults, null, false);
      const made = (open: number[]) => ({
        stations: new Set(open),
        pocValve: site.pocs.map(() => open.length > 0),
        mainlineValve: site.mainlines.map(() => true),
        pump: site.pocs.map(() => open.length > 0),
      });
      const [first, second, shut] = [made([0, 1]), made([1, 2]), made([])];
      return Array.from({ length: 120 }, (_, i) => {
        const c = [first, second][Math.floor(i / 30)] ?? shut;
        return plant.second(at + i, same ? c : { ...c });
      });
    };
    expect(play(true)).toEqual(play(false));
  });
});
