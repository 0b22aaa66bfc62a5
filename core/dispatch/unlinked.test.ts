import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { simulate } from "../bench/simulate.ts";
import type { Controller, Device, Mainline, Program, SiteFile, Station } from "../site-file/schema.ts";
import { plan } from "./plan.ts";

const DATE = "2026-07-14";
/** Stations 1 and 2 (100 L/min) on one controller, 3 (50) on a second that starts at the same time; the main carries 150. */
const two = (more: Partial<Controller>, change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.controllers.push({ id: "c2", name: "Second", powered: "mains", ...more });
    (s.stations[2] as Station).controllerId = "c2";
    const first = s.programs[0] as Program;
    const run = first.runs.pop() as Program["runs"][number];
    s.programs.push({ ...first, id: "p2", name: "P2", controllerId: "c2", runs: [run] });
    change(s);
  });
const hours = (site: SiteFile) =>
  Object.fromEntries(
    plan(site, DATE).runs.map((r) => [r.stationId, `${r.start.slice(11, 16)}-${r.end.slice(11, 16)}`]),
  );

describe("controllers that do not know of each other", () => {
  it("linked: one dispatch", () => {
    expect(hours(two({}))).toEqual({ s1: "22:00-22:10", s3: "22:00-22:10", s2: "22:10-22:20" });
  });
  it("with a fixed share each keeps to its part", () => {
    expect(hours(two({ unlinkedShare: 1 / 3 }))).toEqual({ s1: "22:00-22:10", s3: "22:00-22:10", s2: "22:10-22:20" });
    const short = plan(two({ unlinkedShare: 0.2 }), DATE);
    expect(short.shortfalls).toMatchObject([{ stationId: "s3", minutes: 10 }]);
  });
  it("with hours of its own it has everything then, and the others nothing", () => {
    const site = two({ unlinked: true, unlinkedHours: [{ from: "22:05", to: "22:20" }] });
    expect(hours(site)).toEqual({ s1: "22:20-22:25", s3: "22:05-22:15", s2: "22:25-22:35" });
    for (const c of [site, two({ unlinkedHours: [{ from: "03:00", to: "04:00" }] })])
      for (const r of plan(c, DATE).peaks) expect(r.lpm).toBeLessThanOrEqual((r.ceilingLpm ?? Infinity) + 1e-6);
  });
  it("with neither it takes what it likes, and the night shows where the sum passes the ceiling", () => {
    const loose = plan(
      two({ unlinked: true }, (s) => {
        (s.stations[2] as Station).designFlowLpm = 90;
      }),
      DATE,
    );
    expect(loose.peaks.find((p) => p.id === "main")).toMatchObject({ lpm: 190, ceilingLpm: 150 });
  });
});

describe("one master valve with several sensors", () => {
  const split = smallSite((s) => {
    const sensor = s.pocs[0]?.devices.pop() as Device;
    (s.mainlines[0] as Mainline).devices = [sensor];
    s.mainlines.push({ id: "main2", name: "Second", feedIds: ["poc"], pipes: [], devices: [{ ...sensor, id: "fs2" }] });
    (s.stations[2] as Station).mainlineId = "main2";
    Object.assign(s.pocs[0] as object, { burstLimitLpm: 400 });
  });
  it("is judged by their sum: a broken lateral is found behind the right one, a burst by both together", () => {
    const found = simulate(split, {
      date: DATE,
      faults: [{ at: "+120", kind: "brokenLateral", subjectId: "s3", size: 60 }],
      seed: 1,
      exact: true,
    });
    if (!found.ok) throw new Error("not simulated");
    expect(found.result.alarms.filter((a) => a.kind !== "notFoundAgain").map((a) => [a.kind, a.subjectId])).toEqual([
      ["stationHigh", "s3"],
    ]);
    const burst = simulate(split, {
      date: DATE,
      faults: [{ at: "+200", kind: "mainlineBreak", subjectId: "main2", size: 500 }],
      seed: 1,
      exact: true,
    });
    if (!burst.ok) throw new Error("not simulated");
    expect(burst.result.alarms[0]).toMatchObject({ kind: "burst", subjectId: "poc" });
  });
});
