import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { learnTruth } from "../../testing/bench-plant.ts";
import { randomSite } from "../../testing/random-site.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { oddOnes } from "./odd.ts";

const DATE = "2026-07-14";
/** Minutes for every station, so that none is refused; a static pressure, so that flow follows it. */
const ready = (site: SiteFile): SiteFile => ({
  ...site,
  sources: site.sources.map((s) => ({ ...s, staticPressureKpa: 480 })),
  programs: site.programs.map((p) => ({ ...p, runs: p.runs.map((r) => ({ ...r, minutes: Math.max(1, r.minutes) })) })),
});
const sites = (min: number, max: number): fc.Arbitrary<SiteFile> =>
  randomSite({ stations: { min, max }, windows: false }).map(ready);

describe("learned flows are the true ones", () => {
  it("over 100 random sites with noise and varying pressure, 95 % of the accepted are within 1 % of what flowed", () => {
    let accepted = 0;
    let close = 0;
    fc.assert(
      fc.property(sites(1, 5), fc.nat(1e6), (truth, seed) => {
        // What people believe is up to a fifth wrong; the plant knows better.
        const believed = {
          ...truth,
          stations: truth.stations.map((s, i) => ({
            ...s,
            designFlowLpm: (s.designFlowLpm as number) * (0.8 + 0.4 * ((i * 0.37) % 1)),
          })),
        };
        const { learned, flowed } = learnTruth(believed, truth, { date: DATE, seed });
        for (const r of learned.results) {
          if (r.verdict !== "accepted") continue;
          accepted++;
          if (Math.abs(r.meanLpm / (flowed.get(r.stationId) as number) - 1) < 0.01) close++;
        }
      }),
      { numRuns: 100, seed: 21 },
    );
    expect(accepted).toBeGreaterThan(150);
    expect(close / accepted).toBeGreaterThan(0.95);
  }, 120_000);

  it("with a surging supply nothing is accepted", () => {
    fc.assert(
      fc.property(sites(1, 3), (site) => {
        const surging = Array.from({ length: 900 }, (_, i) => ({
          at: `+${i * 12}`,
          until: `+${i * 12 + 6}`,
          kind: "pressureDrop",
          size: 220,
        }));
        const source = site.sources.map((s) => s.id);
        const faults = source.length === 1 ? surging.map((f) => ({ ...f, subjectId: source[0] })) : null;
        if (!faults) return;
        const { learned } = learnTruth(site, site, { date: DATE, seed: 5, faults });
        expect(learned.results.filter((r) => r.verdict === "accepted")).toEqual([]);
        expect(learned.results.length + learned.refused.length).toBeGreaterThan(0);
      }),
      { numRuns: 12, seed: 22 },
    );
  }, 60_000);

  it("a hidden leak of 1.5 times what can be seen is always caught, and nothing of that system is learned", () => {
    fc.assert(
      fc.property(sites(2, 4), fc.nat(99), fc.nat(1e6), (site, which, seed) => {
        const main = site.mainlines[which % site.mainlines.length] as SiteFile["mainlines"][number];
        const { learned: dry } = learnTruth(site, site, { date: DATE, seed });
        const limit = dry.baseline.find((b) => b.mainlineIds.includes(main.id))?.limitLpm;
        if (limit === undefined) return;
        const { learned } = learnTruth(site, site, {
          date: DATE,
          seed,
          faults: [{ at: "+0", kind: "mainlineBreak", subjectId: main.id, size: 1.5 * limit }],
        });
        expect(learned.baseline.find((b) => b.mainlineIds.includes(main.id))?.flowing).toBe(true);
        const here = new Set(learned.baseline.find((b) => b.mainlineIds.includes(main.id))?.mainlineIds);
        expect(
          learned.results.filter((r) =>
            here.has(site.stations.find((s) => s.id === r.stationId)?.mainlineId as string),
          ),
        ).toEqual([]);
      }),
      { numRuns: 60, seed: 23 },
    );
  }, 60_000);
});

/** One POC and main, `n` stations of unlike flows, all on one controller. */
const row = (n: number, change: (s: Station, i: number) => Partial<Station> = () => ({})): SiteFile => {
  const stations = Array.from(
    { length: n },
    (_, i): Station => ({
      id: `s${i + 1}`,
      number: i + 1,
      name: `S${i + 1}`,
      controllerId: "ctl",
      mainlineId: "main",
      emitter: "rotor",
      planting: "turf",
      designFlowLpm: 60 + 7.3 * i,
    }),
  );
  return {
    format: "presa-site",
    version: 1,
    site: { id: "row", name: "Row", timeZone: "Europe/Vienna", units: "metric" },
    sources: [{ id: "src", name: "Source", kind: "municipal", staticPressureKpa: 480 }],
    pocs: [
      {
        id: "poc",
        name: "Poc",
        sourceIds: ["src"],
        devices: [
          { id: "mv", kind: "masterValve", normally: "closed" },
          {
            id: "fs",
            kind: "flowSensor",
            output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
            minLpm: 10,
            maxLpm: 1500,
          },
        ],
      },
    ],
    mainlines: [{ id: "main", name: "Main", feedIds: ["poc"], pipes: [], ceilingLpm: 900 }],
    controllers: [{ id: "ctl", name: "Controller", powered: "mains" }],
    stations: stations.map((s, i) => ({ ...s, ...change(s, i) })),
    programs: [
      {
        id: "p",
        name: "P",
        controllerId: "ctl",
        starts: ["22:00"],
        days: { type: "weekdays", days: ["tue"] },
        runs: stations.map((s) => ({ stationId: s.id, minutes: 10 })),
      },
    ],
    policy: {
      basis: "station",
      highPercent: 20,
      lowPercent: 25,
      persistenceS: 60,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
    },
  };
};
const odd = (site: SiteFile, faults: unknown[], truth = site) =>
  oddOnes(site, learnTruth(site, truth, { date: DATE, seed: 3, faults }).learned.results);

describe("odd ones", () => {
  it("a K that is 8 % wrong is named as such, with the K that puts it right, and no station is called odd for it", () => {
    const found = odd(row(8), [{ at: "+0", kind: "wrongK", subjectId: "fs", size: 1.08 }]);
    expect(found.constants).toHaveLength(1);
    expect(found.constants[0]).toMatchObject({ sensorId: "fs", stations: 8, against: "design" });
    expect(found.constants[0]?.factor).toBeCloseTo(1.08, 1);
    expect(found.constants[0]).toMatchObject({ corrected: { kGpm: expect.closeTo(1.6 / 1.08, 1) } });
    expect(found.odd).toEqual([]);
    expect(odd(row(8), []).constants).toEqual([]);
  });
  it("a pulse sensor's volume is corrected the same way", () => {
    const site = row(6);
    (site.pocs[0] as { devices: unknown[] }).devices[1] = {
      id: "fs",
      kind: "flowSensor",
      output: { type: "pulse", litresPerPulse: 2 },
      minLpm: 10,
      maxLpm: 1500,
    };
    const found = odd(site, [{ at: "+0", kind: "wrongK", subjectId: "fs", size: 0.9 }]);
    expect(found.constants).toMatchObject([{ corrected: { litresPerPulse: expect.closeTo(2 / 0.9, 1) } }]);
  });
  it("two station numbers on one valve are found, and the other one is named", () => {
    const found = odd(row(8), [{ at: "+0", kind: "wrongValve", subjectId: "s2", otherId: "s6" }]);
    expect(found.odd.map((o) => o.stationId)).toEqual(["s2"]);
    expect(found.odd[0]?.causes[0]).toEqual({ code: "sameValve", otherId: "s6" });
  });
  it("a station that opens another's valve too is told as two valves wired together", () => {
    const found = odd(row(8), [{ at: "+0", kind: "alsoOpens", subjectId: "s3", otherId: "s4" }]);
    expect(found.odd.map((o) => o.stationId)).toEqual(["s3"]);
    expect(found.odd[0]?.causes.slice(0, 2)).toContainEqual({ code: "wiredTogether", otherId: "s4" });
  });
  it("one broken outlet among good ones: against design and its kind, the outlet first", () => {
    const found = odd(row(8), [{ at: "+0", kind: "brokenOutlet", subjectId: "s5", size: 45 }]);
    expect(found.odd.map((o) => [o.stationId, o.against])).toEqual([["s5", ["design", "alike"]]]);
    expect(found.odd[0]?.causes.map((c) => c.code)).toContain("brokenOutlet");
    expect(found.odd[0]?.z).toBeGreaterThan(3.5);
  });
  it("all of one main low is pressure first; a drip line alone is its filter", () => {
    const low = row(7, (s) => ({ learned: undefined, designFlowLpm: s.designFlowLpm }));
    const truth = {
      ...low,
      stations: low.stations.map((s, i) => ({ ...s, designFlowLpm: (s.designFlowLpm as number) * (0.55 + 0.05 * i) })),
    };
    const found = odd(low, [], truth);
    expect(found.odd.length).toBeGreaterThan(3);
    expect(found.odd.at(-1)?.causes[0]?.code).toBe("lowPressure");
    const drip = odd(
      row(6, (_, i) => (i === 2 ? { emitter: "drip" } : {})),
      [{ at: "+0", kind: "clogged", subjectId: "s3", size: 0.3 }],
    );
    expect(drip.odd[0]).toMatchObject({ stationId: "s3", causes: [{ code: "cloggedFilter" }, {}, {}, {}, {}] });
  });
  it("a fall at every learning is wear; a figure that was learned the same before is a wrong design", () => {
    const site = row(6, (_, i) =>
      i === 0 ? { designFlowLpm: 50, learned: { meanLpm: 60, sdLpm: 1, at: "2026-01-01T00:00:00Z" } } : {},
    );
    const past = new Map([["s2", [67, 63, 58].map((meanLpm, i) => ({ meanLpm, at: `2026-0${i + 1}-01T00:00:00Z` }))]]);
    const results = site.stations.map((s, i) => ({
      stationId: s.id,
      verdict: "accepted",
      meanLpm: [60.4, 50][i] ?? (s.designFlowLpm as number),
      sdLpm: 1,
    }));
    const found = oddOnes(site, results, past);
    const fallen = found.odd.find((o) => o.stationId === "s2");
    expect([fallen?.against.includes("past"), fallen?.causes[0]?.code]).toEqual([true, "wear"]);
    expect(found.odd.find((o) => o.stationId === "s1")?.causes.map((c) => c.code)).toContain("wrongDesign");
  });
});
