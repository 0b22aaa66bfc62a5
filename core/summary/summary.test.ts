import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { nightSummary } from "./night-summary.ts";
import { progress } from "./progress.ts";

const DATE = "2026-07-14";
const LEARNED = { meanLpm: 100, sdLpm: 1, at: "2026-05-01T00:00:00Z" };
const log = { openAlarms: 0, benchVersion: 3, version: 3 };

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

describe("the fittings", () => {
  const states = (site: Parameters<typeof progress>[0], facts = log) =>
    Object.fromEntries(
      Object.entries(progress(site, nightSummary(site, DATE), facts, "2026-07-14T00:00:00Z")).map(([k, v]) => [
        k,
        v.state,
      ]),
    );
  it("are open until the step is done, proven after", () => {
    expect(states(smallSite())).toMatchObject({
      waterworks: "proven",
      sensors: "proven",
      stations: "proven",
      programs: "proven",
      learn: "open",
      night: "proven",
      limits: "proven",
      bench: "proven",
      log: "proven",
    });
    expect(
      states(
        smallSite((s) => {
          for (const x of s.stations) x.learned = { ...LEARNED, meanLpm: x.designFlowLpm ?? 0 };
        }),
      )["learn"],
    ).toBe("proven");
  });
  it("are stale when something they depended on has changed", () => {
    expect(states(smallSite(), { ...log, version: 4 })["bench"]).toBe("stale");
    expect(
      states(
        smallSite((s) => {
          for (const x of s.stations) x.learned = { ...LEARNED, meanLpm: 1.3 * (x.designFlowLpm ?? 0) };
        }),
      )["learn"],
    ).toBe("stale");
    expect(
      states(
        smallSite((s) => {
          s.policy.persistenceS = 541;
        }),
      )["limits"],
    ).toBe("stale");
  });
  it("open again for alarms, missing figures and policies that only notify", () => {
    expect(states(smallSite(), { ...log, openAlarms: 2 })["log"]).toBe("open");
    expect(
      states(
        smallSite((s) => {
          delete s.stations[0]?.designFlowLpm;
        }),
      )["stations"],
    ).toBe("open");
    expect(
      states(
        smallSite((s) => {
          s.policy.highResponse = "notify";
        }),
      )["limits"],
    ).toBe("open");
    expect(
      states(
        smallSite((s) => {
          s.pocs[0]?.devices.pop();
        }),
      )["sensors"],
    ).toBe("open");
  });
});
