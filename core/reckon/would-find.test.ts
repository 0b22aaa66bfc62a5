import { describe, expect, it } from "vitest";
import { dates, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";
import { smallSite } from "../../testing/small-site.ts";
import { nth } from "../checked.ts";
import { plan } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import { reckon } from "./reckon.ts";
import { wouldFind } from "./would-find.ts";

const NIGHT = "2026-07-01";
const { ground, known } = reckonedSite(41, 14);
const w = waterworks(known);
const runs = plan(known, NIGHT).runs;
const found = wouldFind(w, runs);

/** Whether a broken outlet of that size is named for certain after so many real, noisy nights, by its seed. */
const named = (stationId: string, lpm: number, seed: number, nights = 1): boolean => {
  const outlet = { kind: "brokenOutlet", subjectId: stationId, at: "00:00:00", size: lpm };
  const logs = dates(NIGHT, nights).map((date, n) => nightLog(ground, date, [outlet], 100 * seed + n));
  return reckon(w, logs)?.found.some((f) => f.certain && f.subjectIds.includes(stationId)) ?? false;
};

describe("what a night would tell, before anything is read", () => {
  it("is of every station that runs long enough to be read", () => {
    expect(found.map((f) => f.stationId).sort()).toEqual([...new Set(runs.map((r) => r.stationId))].sort());
    for (const f of found) if (f.fromLpm !== null) expect(f.fromLpm).toBeGreaterThan(0);
  });
  it("holds on real, noisy nights: well over it a break is named, well under it it is not", () => {
    const told = found.filter((f) => f.fromLpm !== null).slice(0, 6);
    expect(told).toHaveLength(6);
    const over = told.map((f, i) => named(f.stationId, 1.5 * (f.fromLpm as number), i));
    const under = told.map((f, i) => named(f.stationId, 0.4 * (f.fromLpm as number), i));
    expect(over.filter(Boolean).length).toBeGreaterThanOrEqual(5);
    expect(under.filter(Boolean)).toEqual([]);
  });
  it("is less with more nights, and least for who runs alone", () => {
    const three = new Map(wouldFind(w, runs, 3).map((f) => [f.stationId, f.fromLpm]));
    const both = found.flatMap((f) => {
      const then = three.get(f.stationId);
      return f.fromLpm !== null && then ? [then / f.fromLpm] : [];
    });
    expect(both.length).toBeGreaterThan(6);
    expect(Math.max(...both)).toBeLessThan(1.001);
    expect(Math.min(...both)).toBeLessThan(0.95);
    const alone = structuredClone(known);
    for (const p of alone.programs) p.maxStationsAtOnce = 1;
    const one = nth(wouldFind(waterworks(alone), plan(alone, NIGHT).runs), 0);
    const [, among] = nth(
      found.map((f) => [f.stationId, f.fromLpm] as const).filter(([id]) => id === one.stationId),
      0,
    );
    expect(one.fromLpm as number).toBeLessThan((among ?? Number.POSITIVE_INFINITY) * 1.2);
  });
  it("says that nothing small is told of stations without any figure on the first morning", () => {
    const none = structuredClone(known);
    for (const s of none.stations) for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const told = wouldFind(waterworks(none), plan(none, NIGHT).runs);
    expect(told.map((f) => f.stationId).sort()).toEqual(found.map((f) => f.stationId).sort());
    // On the first morning there is nothing to compare with.
    for (const f of told) expect(f.fromLpm ?? Number.POSITIVE_INFINITY).toBeGreaterThan(100);
  });
  it("names those that never run apart together, and says nothing where there is no sensor", () => {
    const pair = smallSite((s) => {
      const [program] = s.programs;
      if (!program) return;
      program.maxStationsAtOnce = 3;
      for (const c of s.controllers) c.maxStationsAtOnce = 3;
      for (const x of s.stations) x.designFlowLpm = 25;
      program.runs = [1, 2].map((n) => ({ stationId: `s${n}`, minutes: 20 }));
    });
    const both = wouldFind(waterworks(pair), plan(pair, "2026-07-14").runs);
    expect(both.map((f) => [f.stationId, f.besideIds])).toEqual([
      ["s1", ["s2"]],
      ["s2", ["s1"]],
    ]);
    const blind = structuredClone(pair);
    for (const p of blind.pocs) p.devices = p.devices.filter((d) => d.kind !== "flowSensor");
    expect(wouldFind(waterworks(blind), plan(blind, "2026-07-14").runs)).toEqual([]);
  });
});
