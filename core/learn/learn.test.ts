import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { localClock } from "../dates/wall-time.ts";
import { waterworks } from "../network/waterworks.ts";
import { companionsFor } from "./companions.ts";
import type { Learning } from "./events.ts";
import { beginLearning, learn } from "./learn.ts";
import { learningOrder } from "./order.ts";
import { refusals } from "./refusals.ts";
import { isSteady, isSteadyPulses, pulseStatistics, windowStatistics } from "./steady.ts";

const run = (site: SiteFile, options: Partial<Parameters<typeof learn>[1]> = {}): Learning => {
  const outcome = learn(site, { date: "2026-07-14", exact: true, ...options });
  if (!outcome.ok) throw new Error(outcome.problem.message);
  return outcome.result;
};

describe("learning on the bench", () => {
  it("finds exactly the expected flows when nothing is noisy, 90 s after opening", () => {
    const l = run(smallSite());
    expect(l.results.map((r) => [r.stationId, r.verdict, r.meanLpm, r.sdLpm, r.samples, r.secondsToSteady])).toEqual([
      ["s1", "accepted", 100, 0, 30, 90],
      ["s2", "accepted", 100, 0, 30, 90],
      ["s3", "accepted", 50, 0, 30, 90],
    ]);
    expect(l.baseline).toMatchObject([{ flowing: false, measuredLpm: 0, limitLpm: 10 }]);
    expect(l.litres).toBeCloseTo((250 * 90) / 60, 6);
  });
  it("with noise comes within 3 % and says how much it spreads", () => {
    for (const r of run(smallSite(), { exact: false, seed: 9 }).results) {
      expect(r.verdict).toBe("accepted");
      expect(Math.abs(r.meanLpm / (r.stationId === "s3" ? 50 : 100) - 1)).toBeLessThan(0.03);
      expect(r.sdLpm).toBeGreaterThan(0);
    }
  });
  it("refuses with every reason, and nothing silently", () => {
    const l = run(
      smallSite((s) => {
        Object.assign(s.stations[0] as object, { lockedOut: true, monitored: false });
        s.programs[0]?.runs.splice(1, 1);
      }),
    );
    expect(l.refused).toEqual([
      { stationId: "s1", reasons: ["lockedOut", "excluded"] },
      { stationId: "s2", reasons: ["noRunTime"] },
    ]);
    expect(l.results.map((r) => r.stationId)).toEqual(["s3"]);
    expect(
      run(
        smallSite((s) => {
          s.pocs[0]?.devices.pop();
        }),
      ).refused.every((r) => r.reasons.includes("noSensor")),
    ).toBe(true);
  });
  it("does not bake a leak into the figures", () => {
    const l = run(smallSite(), { faults: [{ at: "+0", kind: "mainlineBreak", subjectId: "main", size: 30 }] });
    expect(l.results).toEqual([]);
    expect(l.refused.map((r) => r.reasons)).toEqual([["flowAtRest"], ["flowAtRest"], ["flowAtRest"]]);
  });
  it("no flow and over the ceiling are verdicts, not figures to take", () => {
    const l = run(smallSite(), {
      faults: [
        { at: "+0", kind: "stuckClosed", subjectId: "s1" },
        { at: "+0", kind: "brokenLateral", subjectId: "s2", size: 70 },
      ],
    });
    expect(l.results.map((r) => r.verdict)).toEqual(["noFlow", "overCeiling", "accepted"]);
  });
  it("names a station it does not know", () => {
    expect(learn(smallSite(), { date: "2026-07-14", stationIds: ["nope"] })).toMatchObject({ ok: false });
  });
});

describe("a pulse sensor", () => {
  const pulsed = (litresPerPulse: number): SiteFile =>
    smallSite((s) => {
      (s.pocs[0] as { devices: unknown[] }).devices[1] = {
        id: "fs",
        kind: "flowSensor",
        output: { type: "pulse", litresPerPulse },
        minLpm: 10,
        maxLpm: 1500,
      };
    });
  it("is waited for as long as 20 pulses take at that flow", () => {
    const l = run(pulsed(10));
    expect(l.results.map((r) => [r.verdict, Math.round(r.meanLpm * 1e6) / 1e6, r.samples])).toEqual([
      ["accepted", 100, 20],
      ["accepted", 100, 20],
      ["accepted", 50, 20],
    ]);
    // A pulse every 6 s and every 12 s after the hold-off of 60 s.
    expect(l.results.map((r) => r.secondsToSteady)).toEqual([
      expect.closeTo(60 + 21 * 6, -1),
      expect.closeTo(60 + 21 * 6, -1),
      expect.closeTo(60 + 21 * 12, -1),
    ]);
  });
  it("with small pulses needs the window's seconds all the same, and noise leaves it within 1 %", () => {
    for (const r of run(pulsed(0.5), { exact: false, seed: 4 }).results) {
      expect([r.verdict, (r.secondsToSteady as number) >= 90]).toEqual(["accepted", true]);
      expect(r.samples).toBeGreaterThanOrEqual(20);
    }
  });
  it("pulses noted to the second are not called unsteady for that", () => {
    const times = Array.from({ length: 60 }, (_, i) => Math.ceil(1.7 * (i + 1)));
    const fine = pulseStatistics(times, 1, 1);
    expect([fine !== null && isSteadyPulses(fine), fine?.meanLpm]).toEqual([true, expect.closeTo(60 / 1.7, 0)]);
    expect(isSteadyPulses(pulseStatistics(times, 1, 0) as NonNullable<typeof fine>)).toBe(false);
    expect(pulseStatistics(times.slice(0, 20), 1, 1)).toBeNull();
    const surging = Array.from({ length: 60 }, (_, i) => 3 * i + 1.2 * Math.sin(i / 2));
    expect(isSteadyPulses(pulseStatistics(surging, 1) as NonNullable<typeof fine>)).toBe(false);
  });
});

describe("a station under its pump's minimum", () => {
  const pumped = (flow: number, change: (s: SiteFile) => void = () => {}): SiteFile =>
    smallSite((s) => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 60 },
          { flowLpm: 400, headM: 40 },
        ],
        minFlowLpm: 80,
      });
      Object.assign(s.stations[2] as object, { designFlowLpm: flow });
      (s.mainlines[0] as { ceilingLpm?: number }).ceilingLpm = 300;
      change(s);
    });
  it("is learned by difference, with its companion named and the larger spread", () => {
    const exact = run(pumped(20)).results.find((r) => r.stationId === "s3");
    expect(exact).toMatchObject({ verdict: "accepted", meanLpm: expect.closeTo(20, 6), companionIds: ["s2"] });
    const noisy = run(pumped(20), { exact: false, seed: 8 }).results;
    const alone = noisy.find((r) => r.stationId === "s2");
    const between = noisy.find((r) => r.stationId === "s3");
    expect(between?.companionIds).toEqual(["s2"]);
    expect(between?.sdLpm).toBeGreaterThan(alone?.sdLpm ?? 0);
    expect(Math.abs((between?.meanLpm ?? 0) - 20)).toBeLessThan(6);
  });
  it("is refused where no company keeps the pump over its minimum within the ceiling", () => {
    expect(
      refusals(
        pumped(20, (s) => {
          (s.mainlines[0] as { ceilingLpm?: number }).ceilingLpm = 110;
          for (const x of s.stations.slice(0, 2)) x.designFlowLpm = 100;
        }),
      ),
    ).toEqual([{ stationId: "s3", reasons: ["belowPumpMinimum"] }]);
    expect(
      companionsFor(
        waterworks(
          pumped(20, (s) => {
            for (const x of s.stations) x.designFlowLpm = 45;
          }),
        ),
        2,
      ),
    ).toEqual([0, 1]);
  });
});

describe("when and in what order", () => {
  it("main by main along the feeds, by number within one, so that each is filled once", () => {
    const site = smallSite((s) => {
      s.mainlines.push(
        { id: "b", name: "B", feedIds: ["poc"], pipes: [] },
        { id: "a2", name: "A2", feedIds: ["main"], pipes: [] },
      );
      Object.assign(s.stations[0] as object, { mainlineId: "b" });
      Object.assign(s.stations[1] as object, { mainlineId: "a2" });
    });
    expect(learningOrder(waterworks(site)).map((i) => site.stations[i]?.id)).toEqual(["s3", "s2", "s1"]);
    expect(run(site).results.map((r) => r.stationId)).toEqual(["s3", "s2", "s1"]);
  });
  it("waits for hand-watering hours and scheduled runs, and says until when", () => {
    const site = smallSite((s) => {
      (s.pocs[0] as { handWatering?: unknown }).handWatering = [
        { window: { from: "21:00", to: "21:30" }, flowLpm: 20 },
      ];
    });
    const begun = beginLearning(site, { date: "2026-07-14", exact: true, from: "20:58", avoid: true });
    if (!begun.ok) throw new Error(begun.problem.message);
    const seen = [...begun.events];
    const clock = (at: number): string => localClock("Europe/Vienna", at);
    expect(
      seen.flatMap((e) => [
        ...(e.type === "waits" ? [`${e.why} ${clock(e.until)}`] : []),
        ...(e.type === "opens" ? [`${e.stationId} ${clock(e.at)}`] : []),
      ]),
    ).toEqual(["handWatering 21:30", "s1 21:30", "s2 21:31", "s3 21:33"]);
    const late = beginLearning(site, { date: "2026-07-14", exact: true, from: "21:50", avoid: true });
    expect(
      late.ok && [...late.events].flatMap((e) => (e.type === "waits" ? [`${e.why} ${clock(e.until)}`] : [])),
    ).toEqual(["scheduledRuns 22:20"]);
  });
  it("begins no station that could outlast the window, tells which are left, and goes on with those", () => {
    const first = run(smallSite(), { from: "02:00", to: "02:10" });
    expect([first.results.map((r) => r.stationId), first.left]).toEqual([["s1", "s2"], ["s3"]]);
    const on = run(smallSite(), { from: "02:00", doneIds: ["s1", "s2"], elapsedS: first.seconds });
    expect([on.results.map((r) => r.stationId), on.baseline.length]).toEqual([["s3"], 1]);
  });
  it("a pump that is off leaves the baseline blind where nothing else gives pressure", () => {
    const site = smallSite((s) => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 60 },
          { flowLpm: 400, headM: 40 },
        ],
      });
    });
    expect(run(site).baseline[0]?.blind).toBe(true);
    expect(
      run({ ...site, sources: site.sources.map((x) => ({ ...x, staticPressureKpa: 300 })) }).baseline[0]?.blind,
    ).toBeUndefined();
  });
});

describe("steady", () => {
  it("needs a full window within 3 % in spread and in drift", () => {
    expect(isSteady(windowStatistics(Array(29).fill(100)))).toBe(false);
    expect(isSteady(windowStatistics(Array(30).fill(100)))).toBe(true);
    expect(isSteady(windowStatistics(Array.from({ length: 30 }, (_, i) => 100 + i * 0.2)))).toBe(false);
    expect(isSteady(windowStatistics(Array.from({ length: 30 }, (_, i) => 100 + (i % 2 ? 5 : -5))))).toBe(false);
  });
});
