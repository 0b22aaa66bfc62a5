import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { simulate, type Simulation } from "./simulate.ts";

const DATE = "2026-07-14";

function bench(site: SiteFile, faults: unknown[] = [], options: { exact?: boolean; seed?: number } = {}): Simulation {
  const outcome = simulate(site, { date: DATE, faults, exact: true, ...options });
  if (!outcome.ok) throw new Error(JSON.stringify(outcome));
  return outcome.result;
}
const alarms = (s: Simulation) => s.alarms.map((a) => [a.at.slice(11, 19), a.kind, a.subjectId]);
const oneAtATime = (s: SiteFile): void => {
  for (const p of s.programs) p.maxStationsAtOnce = 1;
};
/** Four stations of 60 in pairs, 10 min each, on a main of 150. */
const pairs = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.stations = [1, 2, 3, 4].map((n) => ({
      id: `s${n}`,
      number: n,
      name: `S${n}`,
      controllerId: "ctl",
      mainlineId: "main",
      designFlowLpm: 60,
    }));
    for (const p of s.programs)
      Object.assign(p, { maxStationsAtOnce: 2, runs: s.stations.map((x) => ({ stationId: x.id, minutes: 10 })) });
    change(s);
  });

describe("a night on the exact bench", () => {
  it("without faults delivers exactly what is planned, and trips nothing", () => {
    const s = bench(smallSite());
    expect(s.alarms).toEqual([]);
    expect(s.totals).toEqual({ deliveredL: expect.closeTo(2500, 6), lostL: 0 });
    expect(s.unwatered).toEqual([]);
  });

  it("a closed supply is no station's fault: everything low, the system stops, nothing is locked", () => {
    const s = bench(pairs(), [{ at: "+120", kind: "supplyClosed", subjectId: "src" }]);
    expect(s.alarms.map((a) => a.kind)).toEqual(["supply"]);
    expect(s.lockouts).toEqual([]);
    expect(s.stopped[0]?.subjectId).toBe("main");
    expect(s.alarms[0]?.message).toMatch(/supply.*sensor/i);
  });

  it("one at a time: a second low station after the first means the supply, and neither is locked", () => {
    const s = bench(smallSite(oneAtATime), [{ at: "+120", kind: "supplyClosed", subjectId: "poc" }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["supply", "main"]]);
    expect(s.lockouts).toEqual([]);
  });

  it("a pressure under its limit for as long as a flow limit is an alarm with the low response, and blames no station", () => {
    const limited = (lowResponse: "notify" | "findAndIsolate" | "stopAll") =>
      pairs((s) => {
        s.pocs[0]?.devices.push({ id: "ps", kind: "pressureSensor", lowKpa: 300, highKpa: 700 });
        (s.sources[0] as { staticPressureKpa?: number }).staticPressureKpa = 450;
        Object.assign(s.policy, { lowResponse, lowPercent: 90 });
      });
    const drop = [{ at: "+120", kind: "pressureDrop", subjectId: "poc", size: 200 }];
    const told = bench(limited("notify"), drop);
    expect(alarms(told).map((a) => a.slice(1))).toEqual([["pressureLow", "ps"]]);
    expect([told.lockouts, told.stopped]).toEqual([[], []]);
    expect(told.alarms[0]?.message).toContain("250 kPa, limit 300 kPa");
    expect(bench(limited("findAndIsolate"), drop)).toMatchObject({
      lockouts: [],
      stopped: [{ reason: "pressure under its limit" }],
    });
    expect(bench(limited("stopAll"), drop).lockouts).toEqual(["poc"]);
    const own = limited("stopAll");
    Object.assign(own.pocs[0]?.devices.at(-1) as object, { response: "notify" });
    expect(bench(own, drop).lockouts).toEqual([]);
    expect(bench(limited("notify"), []).alarms).toEqual([]);
  });

  it("a dead sensor, with a pressure sensor that shows pressure, is told as the sensor", () => {
    const site = pairs((s) => {
      s.pocs[0]?.devices.push({ id: "ps", kind: "pressureSensor", lowKpa: 200 });
      (s.sources[0] as { staticPressureKpa?: number }).staticPressureKpa = 450;
    });
    const s = bench(site, [{ at: "+120", kind: "sensorDead", subjectId: "fs" }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["sensor", "fs"]]);
    expect(s.lockouts).toEqual([]);
    expect(s.unwatered).toEqual([]);
  });

  it("a dead sensor one at a time is told as the sensor too, and the first suspect waters after all", () => {
    const site = smallSite((s) => {
      oneAtATime(s);
      s.pocs[0]?.devices.push({ id: "ps", kind: "pressureSensor", lowKpa: 200 });
      (s.sources[0] as { staticPressureKpa?: number }).staticPressureKpa = 450;
    });
    const s = bench(site, [{ at: "+0", kind: "sensorDead", subjectId: "fs" }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["sensor", "fs"]]);
    expect([s.lockouts, s.unwatered]).toEqual([[], []]);
  });

  it("a wrong constant makes every tested station high: sensor, nobody locked, watering goes on unjudged", () => {
    const s = bench(pairs(), [{ at: "+0", kind: "wrongK", subjectId: "fs", size: 1.4 }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["sensor", "fs"]]);
    expect(s.lockouts).toEqual([]);
    expect(s.unwatered).toEqual([]);
  });

  it("a station stuck open shows with all others closed: the mainline is locked with its connection", () => {
    const s = bench(pairs(), [{ at: "+0", kind: "stuckOpen", subjectId: "s1" }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["mainline", "main"]]);
    expect(s.lockouts).toEqual(["main", "poc"]);
    expect(s.totals.lostL).toBeGreaterThan(60);
  });

  it("a mainline with its own master valve is locked alone", () => {
    const site = pairs((s) => {
      (s.mainlines[0] as { devices?: unknown[] }).devices = [{ id: "own", kind: "masterValve", normally: "closed" }];
    });
    expect(bench(site, [{ at: "+300", kind: "mainlineBreak", subjectId: "main", size: 90 }]).lockouts).toEqual([
      "main",
    ]);
  });

  it("a burst needs no hold-off and stops all", () => {
    const site = pairs((s) => {
      (s.pocs[0] as { burstLimitLpm?: number }).burstLimitLpm = 200;
    });
    const s = bench(site, [{ at: "+30", kind: "mainlineBreak", subjectId: "main", size: 150 }]);
    expect(alarms(s)).toEqual([["22:00:45", "burst", "poc"]]);
    expect(s.lockouts).toEqual(["poc"]);
    expect(s.totals.lostL).toBeCloseTo(150 * (15 / 60), 3);
  });

  it("off-schedule flow is told once; a normally closed valve hides it", () => {
    const leak = [{ at: "03:00:00", kind: "mainlineBreak", subjectId: "poc", size: 60 }];
    expect(bench(pairs(), leak).alarms.filter((a) => a.kind === "offSchedule")).toEqual([]);
    const open = pairs((s) => {
      s.pocs[0]?.devices.splice(0, 1, { id: "mv", kind: "masterValve", normally: "open" });
    });
    expect(alarms(bench(open, leak))[0]).toEqual(["03:02:00", "offSchedule", "poc"]);
  });

  it("a pump without flow is stopped after 60 s and its connection locked", () => {
    const site = pairs((s) => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 60 },
          { flowLpm: 300, headM: 20 },
        ],
      });
    });
    const s = bench(site, [{ at: "+120", kind: "pumpFailed", subjectId: "pump" }]);
    expect(alarms(s)).toEqual([["22:03:00", "pumpNoFlow", "pump"]]);
    expect(s.lockouts).toEqual(["poc"]);
  });

  it("notify with several running names the mainline, goes on, and tells once for one running set", () => {
    const site = pairs((s) => {
      s.policy.highResponse = "notify";
    });
    const s = bench(site, [{ at: "+0", kind: "brokenLateral", subjectId: "s1", size: 60 }]);
    expect(alarms(s)).toEqual([["22:02:00", "stationHigh", "main"]]);
    expect([s.lockouts, s.unwatered]).toEqual([[], []]);
  });

  it("stopStation with several running closes and locks all of them", () => {
    const s = bench(
      pairs((x) => {
        x.policy.highResponse = "stopStation";
      }),
      [{ at: "+0", kind: "brokenLateral", subjectId: "s1", size: 60 }],
    );
    expect([...s.lockouts].sort()).toEqual(["s1", "s2"]);
    expect(s.unwatered.map((u) => [u.stationId, u.minutes])).toEqual([
      ["s1", 8],
      ["s2", 8],
    ]);
  });

  it("a break that is gone at the retest costs only the wait", () => {
    const site = pairs((s) => {
      s.policy.retest = true;
    });
    const s = bench(site, [{ at: "+60", until: "+125", kind: "brokenLateral", subjectId: "s1", size: 60 }]);
    expect(s.alarms).toEqual([]);
    expect(s.events.filter((e) => e.type === "retest")).toHaveLength(1);
    expect(s.unwatered).toEqual([]);
  });

  it("a high flow that is not found again is told, and watering goes on", () => {
    const s = bench(pairs(), [{ at: "+60", until: "+125", kind: "brokenLateral", subjectId: "s1", size: 60 }]);
    expect(alarms(s).map((a) => a.slice(1))).toEqual([["notFoundAgain", "main"]]);
    expect(s.unwatered).toEqual([]);
  });

  it("hand watering in its hours widens the high limit", () => {
    const site = pairs((s) => {
      (s.pocs[0] as { handWatering?: unknown }).handWatering = [
        { window: { from: "21:00", to: "23:00" }, flowLpm: 30 },
      ];
    });
    expect(bench(site, [{ at: "+0", kind: "handWatering", subjectId: "main", size: 30 }]).alarms).toEqual([]);
    expect(
      bench(pairs(), [{ at: "+0", kind: "handWatering", subjectId: "main", size: 30 }]).alarms.length,
    ).toBeGreaterThan(0);
  });
});

describe("the bench with its noise", () => {
  it("is the same night for the same seed, and another for another", () => {
    const faults = [{ at: "+200", kind: "brokenLateral", subjectId: "s1" }];
    const run = (seed: number) => bench(pairs(), faults, { exact: false, seed });
    expect(run(3)).toEqual(run(3));
    expect(run(3).totals).not.toEqual(run(4).totals);
  });

  it("reads within a few per cent of expected and trips nothing on an ordinary night", () => {
    const s = bench(pairs(), [], { exact: false });
    expect(s.alarms).toEqual([]);
    expect(s.totals.deliveredL / 2400).toBeGreaterThan(0.93);
    expect(s.totals.deliveredL / 2400).toBeLessThan(1.05);
  });

  it("refuses faults on what they cannot belong to, with the path", () => {
    const outcome = simulate(pairs(), { date: DATE, faults: [{ at: "+5", kind: "pumpFailed", subjectId: "s1" }] });
    expect(outcome).toMatchObject({ ok: false, problem: { path: "faults[0].subjectId" } });
  });
});

describe("one at a time, on two feeds of one connected system", () => {
  const twoFeeds = smallSite((s) => {
    const poc = s.pocs[0] as SiteFile["pocs"][number];
    s.sources.push({ id: "src2", name: "Second source", kind: "municipal" });
    s.pocs.push({
      ...poc,
      id: "poc2",
      name: "Poc 2",
      sourceIds: ["src2"],
      devices: [
        { id: "mv2", kind: "masterValve", normally: "closed" },
        {
          ...(poc.devices[1] as Extract<SiteFile["pocs"][number]["devices"][number], { kind: "flowSensor" }>),
          id: "fs2",
        },
      ],
    });
    s.mainlines.push({
      ...(s.mainlines[0] as SiteFile["mainlines"][number]),
      id: "both",
      name: "Both",
      feedIds: ["poc", "poc2"],
    });
    s.stations = [1, 2, 3, 4].map((n) => ({
      id: `s${n}`,
      number: n,
      name: `S${n}`,
      controllerId: "ctl",
      mainlineId: n % 2 === 1 ? "main" : "both",
      designFlowLpm: 100,
    }));
    Object.assign(s.programs[0] as object, {
      maxStationsAtOnce: 1,
      runs: [1, 2, 3, 4].map((n) => ({ stationId: `s${n}`, minutes: 6 })),
    });
  });
  const night = (faults: unknown[]) => {
    const r = simulate(twoFeeds, { date: "2026-07-14", faults, exact: true });
    if (!r.ok) throw new Error(JSON.stringify(r));
    return r.result;
  };
  it("two low stations, one on each feed, are each proved by the next of their own", () => {
    const r = night([
      { at: "+0", kind: "stuckClosed", subjectId: "s1" },
      { at: "+0", kind: "stuckClosed", subjectId: "s2" },
    ]);
    expect(r.alarms.map((a) => [a.kind, a.subjectId])).toEqual([
      ["stationLow", "s1"],
      ["stationLow", "s2"],
    ]);
    expect(r.lockouts).toEqual(["s1", "s2"]);
  });
  it("a supply that fails stops what hangs on it alone, and no station is blamed", () => {
    const r = night([{ at: "+0", kind: "supplyClosed", subjectId: "src" }]);
    expect(r.alarms.map((a) => a.kind)).toContain("supply");
    expect(r.lockouts).toEqual([]);
  });
});

describe("a retest", () => {
  const retested = (change: (s: SiteFile) => void = () => {}): SiteFile =>
    pairs((s) => {
      Object.assign(s.policy, { retest: true, retestWaitS: 60, highResponse: "notify", lowResponse: "notify" });
      change(s);
    });
  const lines = (s: Simulation, types: string[]): string[] =>
    s.events.filter((e) => types.includes(e.type)).map((e) => `${e.at.slice(11, 19)} ${e.type} ${e.subjectId}`);

  it("opens the set as it was, though a soak has ended and others could open meanwhile", () => {
    const site = retested((s) => {
      // Station 1's first cycle ends at 22:05; its soak is over while the set of 2 and 3 waits.
      Object.assign(s.stations[0] as object, { cycle: { longestMin: 5 }, soakMin: 3 });
    });
    const s = bench(site, [{ at: "+330", kind: "brokenLateral", subjectId: "s2" }]);
    const retest = s.events.find((e) => e.type === "retest");
    const after = s.events.slice(s.events.indexOf(retest as never));
    const again = after.filter((e) => e.type === "open").slice(0, 2);
    expect(again.map((e) => e.subjectId).sort()).toEqual(
      after
        .filter((e) => e.type === "close")
        .slice(0, 2)
        .map((e) => e.subjectId)
        .sort(),
    );
    expect(new Set(again.map((e) => e.at)).size).toBe(1);
  });
  it("that trips again is told, once; one that does not goes on without a word", () => {
    const broken = bench(retested(), [{ at: "+60", kind: "brokenLateral", subjectId: "s1" }]);
    expect(broken.alarms.map((a) => a.kind)).toEqual(["stationHigh"]);
    expect(lines(broken, ["retest"])).toHaveLength(1);
    const passing = bench(retested(), [{ at: "+60", kind: "brokenLateral", subjectId: "s1", until: "+200" }]);
    expect(passing.alarms).toEqual([]);
    expect(passing.unwatered).toEqual([]);
  });
  it("keeps all else of its system shut until it has been judged", () => {
    const s = bench(retested(), [{ at: "+60", kind: "brokenLateral", subjectId: "s1", until: "+200" }]);
    const retest = Date.parse(s.events.find((e) => e.type === "retest")?.at ?? "");
    // Waits 60 s, hold-off 60 s, persistence 60 s.
    const others = s.events.filter(
      (e) => e.type === "open" && ["s3", "s4"].includes(e.subjectId) && Date.parse(e.at) > retest,
    );
    for (const e of others) expect(Date.parse(e.at) - retest).toBeGreaterThanOrEqual(180_000);
  });
});

describe("a pump that fails while stations are tested", () => {
  it("is told as the pump's, with what the test expected, and locks no station", () => {
    const site = pairs((s) => {
      s.pocs[0]?.devices.unshift({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 60 },
          { flowLpm: 300, headM: 20 },
        ],
      } as never);
      for (const x of s.mainlines) x.holdOffS = 90;
    });
    const s = bench(site, [{ at: "+30", kind: "pumpFailed", subjectId: "pump" }]);
    expect(s.lockouts.filter((id) => id.startsWith("s"))).toEqual([]);
    const told = s.alarms.find((a) => a.kind === "pumpNoFlow");
    expect(told?.subjectId).toBe("pump");
    expect(told?.expectedLpm).toBeGreaterThan(0);
  });
});
