import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { nightSummary } from "./night-summary.ts";
import { flowFromHz } from "../sensors/sensor-range.ts";
import type { FlowSensor, SiteFile } from "../site-file/schema.ts";
import { ON_THE_SPOT, withCheck } from "../site-file/device-checks.ts";
import type { LogState } from "./log-state.ts";
import { progress } from "./progress.ts";

const DATE = "2026-07-14";
const LEARNED = { meanLpm: 100, sdLpm: 1, at: "2026-05-01T00:00:00Z" };
const log: LogState = { openAlarms: 0, calm: null, faulted: null, there: null, nights: null, version: 3 };

describe("the tell-line's figures", () => {
  it("name what binds, when it ends, what is short and watched", () => {
    expect(nightSummary(smallSite(), DATE)).toMatchObject({
      finish: "2026-07-14T22:20:00+02:00",
      shortfallMin: 0,
      watched: 0.9,
      binding: { elementId: "main", ceilingLpm: 150, rule: "entered" },
      findings: { errors: 0 },
      litres: expect.closeTo(2500, 6),
    });
    expect(
      nightSummary(
        smallSite((s) => {
          s.programs = [];
        }),
        DATE,
      ),
    ).toMatchObject({ finish: null, watched: null, binding: null, sketch: [] });
    expect(
      nightSummary(
        smallSite((s) => {
          (s.stations[0] as { lockedOut?: boolean }).lockedOut = true;
        }),
        DATE,
      ).shortfallMin,
    ).toBe(10);
  });
});

const REHEARSED = { version: 3, at: "2026-06-30T10:00:00Z", by: "Maren", faults: 0, alarms: 0, unwateredMin: 0 };

describe("the fittings", () => {
  const fittings = (site: SiteFile, facts: Partial<LogState> = {}) =>
    progress(site, nightSummary(site, DATE), { ...log, ...facts }, "2026-07-14T00:00:00Z");
  const states = (site: SiteFile, facts: Partial<LogState> = {}) =>
    Object.fromEntries(Object.entries(fittings(site, facts)).map(([k, v]) => [k, v.state]));
  const learnedSite = (share: number) =>
    smallSite((s) => {
      for (const x of s.stations) x.learned = { ...LEARNED, meanLpm: share * (x.designFlowLpm ?? 0) };
    });
  const sensorOf = (s: SiteFile): FlowSensor =>
    s.pocs.flatMap((p) => p.devices).find((d): d is FlowSensor => d.kind === "flowSensor") as FlowSensor;
  /** The sensor proved against the meter with the constant that it has. */
  const proved = (change: (sensor: FlowSensor) => void = () => {}) =>
    smallSite((s) => {
      const sensor = sensorOf(s);
      const hz = 20;
      const litres = flowFromHz(sensor.output, hz) * 3;
      sensor.provings = [
        { at: "2026-06-01T08:00:00Z", by: "Tolly", worstPercent: 0.5, tests: [{ hz, litres, seconds: 180 }] },
      ];
      change(sensor);
    });

  it("draws the night in small: what flows at each of so many instants, and as much water as there is", () => {
    const { sketch, makespanS, litres } = nightSummary(smallSite(), DATE);
    expect(sketch).toHaveLength(110);
    expect(sketch[0]).toBe(150);
    const drawn = sketch.reduce((sum, lpm) => sum + (lpm * makespanS) / 110 / 60, 0);
    expect(Math.abs(drawn / litres - 1)).toBeLessThan(0.03);
  });
  it("what is only entered is never proven", () => {
    const all = states(smallSite());
    expect(Object.values(all)).not.toContain("full");
    expect(all).toMatchObject({
      waterworks: "half",
      sensors: "half",
      programs: "half",
      learn: "empty",
      bench: "empty",
    });
  });

  it("an empty site has nothing, and a program without minutes is none", () => {
    const bare = smallSite((s) => {
      s.stations = [];
      s.programs = [];
      s.mainlines = [];
      s.pocs = [];
    });
    expect(states(bare)).toMatchObject({ waterworks: "empty", sensors: "empty", stations: "empty", programs: "empty" });
    const idle = smallSite((s) => {
      for (const p of s.programs) p.runs = [];
    });
    expect(states(idle)["programs"]).toBe("empty");
  });

  it("a sensor is proven by its meter test, and cracks when its constant becomes another", () => {
    const right = fittings(proved()).sensors;
    expect(right).toMatchObject({ state: "full", seal: { by: "Tolly", how: "meter test" } });
    const changed = proved((sensor) => {
      if (sensor.output.type === "frequency") sensor.output.kGpm *= 1.2;
      else sensor.output.litresPerPulse *= 1.2;
    });
    expect(fittings(changed).sensors.state).toBe("cracked");
    const old = proved((sensor) => {
      for (const p of sensor.provings ?? []) p.at = "2024-06-01T08:00:00Z";
    });
    expect(fittings(old).sensors.state).toBe("cracked");
  });

  it("the waterworks are proven once every device was found as drawn, and by no device that last was not", () => {
    const found = (ok: (kind: string) => boolean) =>
      smallSite((s) => {
        for (const d of s.pocs.flatMap((p) => p.devices))
          Object.assign(
            d,
            withCheck(d, { check: ON_THE_SPOT, ok: ok(d.kind), by: "Tolly", at: "2026-06-02T08:00:00Z" }),
          );
      });
    const issues = fittings(found(() => true)).waterworks;
    expect(issues).toMatchObject({ seal: { by: "Tolly" } });
    const left = fittings(found((kind) => kind !== "masterValve")).waterworks;
    expect(left.state).toBe("half");
    expect(left.seal).toBeNull();
  });

  it("each step that is not done says what to do next and where; one that is done says nothing", () => {
    const next = (site: SiteFile, facts: Partial<LogState> = {}) =>
      Object.fromEntries(Object.entries(fittings(site, facts)).map(([k, v]) => [k, v.next]));
    const bare = smallSite((s) => {
      s.stations = [];
      s.programs = [];
      s.mainlines = [];
      s.pocs = [];
    });
    expect(next(bare)).toMatchObject({
      waterworks: { at: "waterworks" },
      sensors: { at: "waterworks", words: expect.stringContaining("point of connection") },
      stations: { at: "waterworks", words: expect.stringContaining("mainline") },
      programs: { at: "programs", words: "add a program" },
      learn: { at: "stations" },
      bench: { at: "bench" },
      log: null,
    });
    expect(next(smallSite())).toMatchObject({
      sensors: { at: "sensors?at=fs", words: "prove the sensor at Poc against the meter" },
      learn: { at: "learn", words: "learn 3 stations" },
      programs: { at: "bench", words: expect.stringContaining("without faults") },
    });
    expect(next(learnedSite(1))["learn"]).toBeNull();
    expect(next(proved())["sensors"]).toBeNull();
    expect(next(smallSite(), { openAlarms: 1 })["log"]).toEqual({
      at: "log?view=alarms",
      words: "find the cause of 1 open alarm and clear it",
    });
    const unknown = smallSite((s) => {
      delete s.stations[1]?.designFlowLpm;
    });
    expect(next(unknown)["stations"]).toMatchObject({
      at: "stations?at=s2",
      words: expect.stringContaining("1 station"),
    });
  });

  it("learning is proven by accepted figures that stand, and cracks when they are off", () => {
    expect(states(learnedSite(1))["learn"]).toBe("full");
    expect(states(learnedSite(1.3))["learn"]).toBe("cracked");
  });

  it("a rehearsal without faults proves programs and night, until the next revision", () => {
    expect(states(smallSite(), { calm: REHEARSED })).toMatchObject({ programs: "full", night: "full", bench: "full" });
    expect(states(smallSite(), { calm: REHEARSED, version: 4 })).toMatchObject({
      programs: "cracked",
      bench: "cracked",
    });
    expect(states(smallSite(), { calm: { ...REHEARSED, unwateredMin: 30 } })["programs"]).toBe("half");
  });

  it("limits are proven by a rehearsal that saw its faults, not by one that saw nothing", () => {
    const faulted = { ...REHEARSED, faults: 2, alarms: 2 };
    expect(states(smallSite(), { faulted })["limits"]).toBe("full");
    expect(states(smallSite(), { faulted: { ...faulted, alarms: 0 } })["limits"]).toBe("half");
    expect(states(smallSite(), { faulted, version: 4 })["limits"]).toBe("cracked");
  });

  it("open alarms crack the log", () => {
    expect(states(smallSite(), { openAlarms: 2 })["log"]).toBe("cracked");
  });
});
