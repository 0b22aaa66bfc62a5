import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSite, randomSiteWithInputs } from "../../testing/random-site.ts";
import { plan, planOf, playNight } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Device, Program, SiteFile, Station } from "../site-file/schema.ts";
import { betterNight, betterSite } from "./better-night.ts";
import type { Allowed } from "./tunings.ts";
import { FastNight } from "./fast-night.ts";
import type { Tuning } from "./fast-facts.ts";
import { compareScores, playedScore, tuned } from "./night-score.ts";

const DATE = "2026-07-14";
const upTo = (tries: number) => {
  let n = 0;
  return () => ++n > tries;
};
const oneStart = (site: SiteFile): SiteFile => ({
  ...site,
  programs: site.programs.map((p) => ({ ...p, starts: p.starts.slice(0, 1) })),
});

/** With what changes the ceilings in the night: hours of sources, hand watering, controllers that do not know of each other; pumps with a minimum; and stations without a figure. */
function hard(site: SiteFile, dice: (n: number) => number): SiteFile {
  const hours = (): { from: string; to: string }[] => {
    const from = ["19:30", "21:00", "22:40", "00:10"][dice(4)] as string;
    return [{ from, to: ["22:20", "01:00", "03:30", "06:00"][dice(4)] as string }];
  };
  return {
    ...site,
    sources: site.sources.map((s) => (dice(2) === 0 ? { ...s, hours: hours() } : s)),
    pocs: site.pocs.map((p) => {
      const watered =
        dice(3) === 0 ? { ...p, handWatering: hours().map((window) => ({ window, flowLpm: 20 + dice(120) })) } : p;
      if (dice(3) !== 0) return watered;
      const pump: Device = {
        id: `${p.id}-pump`,
        kind: "pump",
        minFlowLpm: 15 + dice(90),
        curve: [
          { flowLpm: 0, headM: 40 },
          { flowLpm: 900, headM: 20 },
        ],
      };
      return { ...watered, devices: [...p.devices, pump] };
    }),
    controllers: site.controllers.map((c) => {
      const kind = dice(5);
      if (kind === 0) return { ...c, unlinked: true, unlinkedShare: (1 + dice(8)) / 10 };
      if (kind === 1) return { ...c, unlinked: true, unlinkedHours: hours() };
      return kind === 2 && dice(2) === 0 ? { ...c, unlinked: true } : c;
    }),
    stations: site.stations.map((s) => {
      if (dice(6) === 0) return { ...s, usesPump: false };
      if (dice(9) !== 0) return s;
      const { designFlowLpm: _, ...rest } = s;
      return rest as Station;
    }),
  };
}

/** Another order, priorities and numbers at once. */
const shuffled = (filed: Tuning, dice: (n: number) => number): Tuning =>
  filed.map((t) => ({
    order: t.order
      .map((o) => ({ o, k: dice(997) }))
      .sort((a, b) => a.k - b.k)
      .map((x) => x.o),
    priority: 1 + dice(3),
    atOnce: 1 + dice(6),
  }));

describe("the fast night", () => {
  it("plays what the dispatcher plays on hard sites: ceilings that change, pump minimums, controllers that do not know of each other, missing figures, second starts, inputs", () => {
    const tried = { nights: 0, changed: 0, groups: 0, unknown: 0, minimum: 0, again: 0, paused: 0 };
    fc.assert(
      fc.property(
        fc.oneof(
          randomSite({ stations: { min: 1, max: 24 }, windows: true }),
          randomSiteWithInputs({ stations: { min: 1, max: 16 }, windows: true }),
        ),
        fc.infiniteStream(fc.nat(1000)),
        (drawn, stream) => {
          const dice = (n: number): number => (stream.next().value as number) % n;
          const site = hard(drawn, dice);
          const w = waterworks(site);
          const fast = FastNight.of(w, DATE);
          if (!fast) return;
          const filed = fast.asFiled();
          for (let round = 0; round < 3; round++) {
            const tuning = round === 0 ? filed : shuffled(filed, dice);
            const same = { ...w, site: tuned(site, fast, tuning) };
            const night = playNight(same, DATE);
            const real = playedScore(same, night);
            expect(planOf(same, night).lateStartBoundS).toBeLessThanOrEqual(real[1] + 1e-3);
            const quick = fast.score(tuning);
            expect([quick[0], quick[1], quick[2]]).toEqual([real[0], real[1], real[2]]);
            expect(Math.abs(quick[3] - real[3])).toBeLessThan(1e-3);
            tried.nights++;
            if (night.runs.some((r) => r.ended === "sourceHours")) tried.changed++;
            if (night.runs.some((r) => r.waited?.code === "pumpMinimum" || r.ended === "pumpMinimum")) tried.minimum++;
            if (new Set(night.starts.map((s) => s.program)).size < night.starts.length) tried.again++;
            if (night.runs.some((r) => r.ended === "input")) tried.paused++;
            if (night.capacity.groupCount > 1) tried.groups++;
            if (night.runs.some((r) => r.flowLpm === null)) tried.unknown++;
          }
        },
      ),
      { numRuns: Number(process.env["FAST_RUNS"] ?? 150), seed: 8 },
    );
    expect(tried.nights).toBeGreaterThan(200);
    for (const of of ["changed", "groups", "unknown", "minimum", "again", "paused"] as const)
      expect(tried[of], of).toBeGreaterThan(10);
  }, 120_000);
  it("plays what the dispatcher plays, whatever the order, priorities and numbers at once", () => {
    let played = 0;
    fc.assert(
      fc.property(
        randomSite({ stations: { min: 1, max: 24 }, windows: true }),
        fc.infiniteStream(fc.nat(1000)),
        (drawn, stream) => {
          const site = oneStart(drawn);
          const w = waterworks(site);
          const fast = FastNight.of(w, DATE);
          if (!fast) return;
          const filed = fast.asFiled();
          const dice = (n: number): number => (stream.next().value as number) % n;
          for (let round = 0; round < 4; round++) {
            const tuning = round === 0 ? filed : shuffled(filed, dice);
            const same = { ...w, site: tuned(site, fast, tuning) };
            const real = playedScore(same, playNight(same, DATE));
            const quick = fast.score(tuning);
            expect([quick[0], quick[1], quick[2]]).toEqual([real[0], real[1], real[2]]);
            expect(Math.abs(quick[3] - real[3])).toBeLessThan(1e-3);
            played++;
          }
        },
      ),
      { numRuns: 60, seed: 5 },
    );
    expect(played).toBeGreaterThan(100);
  }, 60_000);
});

describe("a better night", () => {
  it("settings put into the file give that plan from the plain command, never later and never shorter", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 2, max: 14 }, windows: false }), (site) => {
        const better = betterNight(site, DATE, { seed: 1, shouldStop: upTo(150) });
        const changed: SiteFile = {
          ...site,
          programs: site.programs.map((p) => {
            const s = better.settings.programs.find((x) => x.id === p.id);
            return s
              ? {
                  ...p,
                  priority: s.priority,
                  maxStationsAtOnce: s.maxStationsAtOnce,
                  starts: s.starts,
                  runs: s.order.map((id) => p.runs.find((r) => r.stationId === id) as (typeof p.runs)[number]),
                }
              : p;
          }),
        };
        const before = plan(site, DATE);
        const after = plan(changed, DATE);
        expect([after.makespanS, after.shortfalls]).toEqual([better.makespanS, better.shortfalls]);
        const short = (p: typeof after): number => p.shortfalls.reduce((sum, s) => sum + s.minutes, 0);
        expect(short(after)).toBeLessThanOrEqual(short(before));
        if (short(after) === short(before)) expect(after.makespanS).toBeLessThanOrEqual(before.makespanS);
      }),
      { numRuns: 15, seed: 2 },
    );
  }, 60_000);

  it("on small sites is as good as the best of all orders and numbers at once", () => {
    const sizes: number[] = [];
    fc.assert(
      fc.property(randomSite({ stations: { min: 3, max: 14 }, windows: true }), fc.boolean(), (drawn, twins) => {
        // Now and then two stations that are alike: only one of their orders is played.
        const alike = twins
          ? drawn.stations.map((s, i) =>
              i % 3 === 1 ? { ...(drawn.stations[i - 1] as Station), id: s.id, number: s.number } : s,
            )
          : drawn.stations;
        const site = oneStart({
          ...drawn,
          stations: alike.map((s) => ({ ...s, controllerId: "ctl0" })),
          programs: drawn.programs.slice(0, 1).map((p) => ({
            ...p,
            runs: alike.slice(0, 8).map((s, i) => ({ stationId: s.id, minutes: twins ? 10 : 2 + ((7 * i) % 17) })),
          })),
        });
        const w = waterworks(site);
        const fast = FastNight.of(w, DATE);
        if (!fast) return;
        const filed = fast.asFiled();
        const places = filed[0]?.order ?? [];
        if (sizes.filter((n) => n === places.length).length >= (places.length === 8 ? 2 : 4)) return;
        sizes.push(places.length);
        let best = fast.score(filed);
        const permute = (left: number[], taken: number[]): void => {
          if (left.length === 0)
            for (let atOnce = 1; atOnce <= Math.max(places.length, filed[0]?.atOnce ?? 1); atOnce++) {
              const score = fast.score([{ order: taken, priority: 1, atOnce }]);
              if (compareScores(score, best) < 0) best = score;
            }
          for (const n of left)
            permute(
              left.filter((x) => x !== n),
              [...taken, n],
            );
        };
        permute(places, []);
        const found = betterSite(site, DATE, { seed: 3, shouldStop: () => false });
        const w2 = waterworks(found);
        expect(compareScores(playedScore(w2, playNight(w2, DATE)), best)).toBeLessThanOrEqual(0);
      }),
      { numRuns: 60, seed: 4 },
    );
    expect(sizes).toEqual(expect.arrayContaining([3, 4, 5, 6, 7, 8]));
  }, 120_000);

  it("on small sites of several programs is as good as the best of all orders, ranks and numbers at once", () => {
    let played = 0;
    fc.assert(
      fc.property(randomSite({ stations: { min: 4, max: 10 }, windows: false }), (drawn) => {
        const site = oneStart({ ...drawn, programs: drawn.programs.map((p) => ({ ...p, runs: p.runs.slice(0, 4) })) });
        const fast = FastNight.of(waterworks(site), DATE);
        if (!fast) return;
        const filed = fast.asFiled();
        if (filed.filter((t) => t.order.length > 0).length !== 2) return;
        played++;
        let best = fast.score(filed);
        const orders = (left: number[]): number[][] =>
          left.length === 0
            ? [[]]
            : left.flatMap((n) => orders(left.filter((x) => x !== n)).map((rest) => [n, ...rest]));
        const build = (at: number, made: Tuning): void => {
          const t = filed[at];
          if (!t) {
            const score = fast.score(made);
            if (compareScores(score, best) < 0) best = score;
            return;
          }
          const ranks = t.order.length > 0 ? [1, 2] : [t.priority];
          for (const order of orders(t.order))
            for (let atOnce = 1; atOnce <= Math.max(t.order.length, t.atOnce); atOnce++)
              for (const priority of ranks) build(at + 1, [...made, { order, priority, atOnce }]);
        };
        build(0, []);
        const w = waterworks(betterSite(site, DATE, { seed: 3, shouldStop: () => false }));
        expect(compareScores(playedScore(w, playNight(w, DATE)), best)).toBeLessThanOrEqual(0);
      }),
      { numRuns: 60, seed: 9 },
    );
    expect(played).toBeGreaterThan(5);
  }, 60_000);

  it("makes only the kinds of change that are allowed", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 4, max: 12 }, windows: false }), (site) => {
        const run = (allowed: Allowed) => betterSite(site, DATE, { seed: 1, shouldStop: upTo(120), allowed });
        const none = { order: false, priority: false, atOnce: false, starts: false, moves: false };
        const of = (s: SiteFile, what: (p: Program) => unknown) => s.programs.map(what);
        expect(run(none).programs).toEqual(site.programs);
        const order = run({ ...none, order: true });
        for (const what of [(p: Program) => p.priority, (p: Program) => p.maxStationsAtOnce, (p: Program) => p.starts])
          expect(of(order, what)).toEqual(of(site, what));
        const numbers = run({ ...none, atOnce: true });
        expect(of(numbers, (p) => p.runs)).toEqual(of(site, (p) => p.runs));
        const moved = run({ ...none, order: true, starts: true, moves: true });
        const minutes = (s: SiteFile): string[] =>
          s.programs.flatMap((p) => p.runs.map((r) => `${r.stationId} ${r.minutes}`)).sort();
        expect(minutes(moved)).toEqual(minutes(site));
        expect(of(moved, (p) => p.days)).toEqual(of(site, (p) => p.days));
      }),
      { numRuns: 8, seed: 6 },
    );
  }, 60_000);
});

describe("a better night keeps faith", () => {
  const shorts = (site: SiteFile): Map<string, number> => {
    const found = new Map<string, number>();
    for (const s of plan(site, DATE).shortfalls) found.set(s.stationId, (found.get(s.stationId) ?? 0) + s.minutes);
    return found;
  };
  it("with every station: none is left shorter than it was", () => {
    let short = 0;
    fc.assert(
      fc.property(randomSite({ stations: { min: 4, max: 16 }, windows: true, pumps: true }), (drawn) => {
        // Little time for much water.
        const site = {
          ...drawn,
          programs: drawn.programs.map((p) => ({ ...p, windows: [{ from: "22:00", to: "23:30" }] })),
        };
        const before = shorts(site);
        if (before.size > 0) short++;
        const after = shorts(betterSite(site, DATE, { seed: 3, shouldStop: upTo(300) }));
        for (const [station, minutes] of after) expect(minutes).toBeLessThanOrEqual((before.get(station) ?? 0) + 1e-6);
      }),
      { numRuns: 25 },
    );
    expect(short).toBeGreaterThan(3);
  });
  it("with a station that is twice in a program: its settings give its plan, and it is no later", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 3, max: 10 }, windows: false }), (drawn) => {
        const site: SiteFile = {
          ...drawn,
          programs: drawn.programs.map((p) => ({
            ...p,
            runs: p.runs.flatMap((r, i) => (i % 2 === 0 ? [r, { ...r, minutes: r.minutes + 3 }] : [r])),
          })),
        };
        const better = betterNight(site, DATE, { seed: 5, shouldStop: upTo(150) });
        const put: SiteFile = {
          ...site,
          programs: site.programs.map((p) => {
            const t = better.settings.programs.find((x) => x.id === p.id) as (typeof better.settings.programs)[number];
            const left = [...p.runs];
            const runs = t.order.map((id) => {
              const at = left.findIndex((r) => r.stationId === id);
              return left.splice(at, 1)[0] as (typeof left)[number];
            });
            return { ...p, priority: t.priority, maxStationsAtOnce: t.maxStationsAtOnce, starts: t.starts, runs };
          }),
        };
        const [now, then] = [plan(site, DATE), plan(put, DATE)];
        expect(then.runs).toEqual(better.runs);
        expect(then.makespanS).toBeLessThanOrEqual(now.makespanS);
        expect(better.lowerBoundS).toBeLessThanOrEqual(then.makespanS);
      }),
      { numRuns: 25 },
    );
  });
});
