import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { carries } from "../../testing/feasible-plan.ts";
import { randomSite } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type Capacities, FlowAssignment } from "./flow-assignment.ts";
import { type Waterworks, waterworks } from "./waterworks.ts";

const full = (w: Waterworks): Capacities => ({
  source: w.sourceCeiling,
  poc: w.pocCeiling,
  mainline: w.mainlineCeiling,
});

/** Two sources of 100 and 200 (drawn on in that order), each behind its own POC, both feeding one main. */
const twoFeeds = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.sources = [
      { id: "second", name: "Second", kind: "well", priority: 2, yieldLpm: 200 },
      { id: "first", name: "First", kind: "municipal", priority: 1, yieldLpm: 100 },
    ];
    s.pocs = ["second", "first"].map((id) => ({ id: `poc-${id}`, name: id, sourceIds: [id], devices: [] }));
    s.mainlines = [{ id: "main", name: "Main", feedIds: ["poc-second", "poc-first"], pipes: [] }];
    change(s);
  });

describe("sets that may run together", () => {
  it("a station is taken exactly when a maximum flow carries it with those already taken", () => {
    const demand = fc.array(fc.record({ main: fc.nat(9), lpm: fc.integer({ min: 5, max: 200 }) }), {
      minLength: 1,
      maxLength: 10,
    });
    fc.assert(
      fc.property(randomSite({ stations: { min: 0, max: 1 }, windows: false }), demand, (site, wanted) => {
        const w = waterworks(site);
        const assignment = new FlowAssignment(w, full(w));
        const taken: { main: string; lpm: number }[] = [];
        for (const d of wanted) {
          const m = d.main % site.mainlines.length;
          const next = { main: site.mainlines[m]?.id as string, lpm: d.lpm };
          const fits = assignment.tryAdd(m, d.lpm);
          expect(fits).toBe(carries(site, [...taken, next]));
          if (fits) taken.push(next);
        }
        const flows = assignment.flows();
        flows.poc.forEach((f, p) => {
          expect(f).toBeLessThanOrEqual((w.pocCeiling[p] as number) + 1e-5);
        });
        expect(flows.source.reduce((a, b) => a + b, 0)).toBeCloseTo(
          taken.reduce((a, t) => a + t.lpm, 0),
          6,
        );
      }),
      { numRuns: 200, seed: 4 },
    );
  });

  it("draws on sources by priority, lowest number first, then the next", () => {
    const w = waterworks(twoFeeds());
    const a = new FlowAssignment(w, full(w));
    expect(a.assign([80])).toBe(true);
    expect(a.flows().source).toEqual([0, 80]);
    expect(a.assign([250])).toBe(true);
    expect(a.flows().source[0]).toBeCloseTo(150, 4);
    expect(a.flows().source[1]).toBeCloseTo(100, 4);
    expect(a.assign([301])).toBe(false);
  });

  it("reroutes what it gave before when a later station can only be fed one way", () => {
    const w = waterworks(
      twoFeeds((s) => {
        s.mainlines.push({ id: "side", name: "Side", feedIds: ["poc-first"], pipes: [] });
      }),
    );
    const a = new FlowAssignment(w, full(w));
    expect([a.tryAdd(0, 90), a.tryAdd(1, 95), a.tryAdd(1, 10)]).toEqual([true, true, false]);
    // The side main needs 95 of the first source, so of the 90 at most 5 may still come from there.
    expect(a.flows().source.reduce((x, y) => x + y, 0)).toBeCloseTo(185, 6);
    expect(a.flows().source[0]).toBeGreaterThanOrEqual(85 - 1e-4);
    expect(a.binding(1, 10)).toMatchObject({ kind: "source", index: 1 });
  });

  it("allows a hair's breadth over a ceiling and no more", () => {
    const w = waterworks(smallSite());
    const a = new FlowAssignment(w, full(w));
    expect([a.tryAdd(0, 150 + 5e-7), new FlowAssignment(w, full(w)).tryAdd(0, 150.001)]).toEqual([true, false]);
  });
});

describe("waterworks", () => {
  it("know what stands above what, and which belong to one connected system", () => {
    const w = waterworks(
      smallSite((s) => {
        s.pocs.push({ id: "poc2", name: "Poc 2", sourceIds: ["src"], devices: [] });
        s.mainlines.push(
          { id: "below", name: "Below", feedIds: ["main"], pipes: [] },
          { id: "apart", name: "Apart", feedIds: ["poc2"], pipes: [] },
        );
      }),
    );
    expect(w.mainsAbove[1]).toEqual([1, 0]);
    expect(w.pocsAbove[1]).toEqual([0]);
    expect([
      w.systemCount,
      w.systemOfMainline[0] === w.systemOfMainline[1],
      w.systemOfMainline[2] === w.systemOfPoc[1],
    ]).toEqual([2, true, true]);
  });
});
