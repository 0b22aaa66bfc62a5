import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { planFaults } from "../../testing/feasible-plan.ts";
import { randomSite, randomSiteWithInputs } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { slowDispatch } from "../../testing/slow-dispatch.ts";
import { waterworks } from "../network/waterworks.ts";
import { check } from "../check/check.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { plan } from "./plan.ts";
import { programStarts } from "./queue.ts";

const DATE = "2026-07-14";

function due(site: SiteFile): Map<string, number> {
  const seconds = new Map<string, number>();
  for (const start of programStarts(waterworks(site), DATE))
    for (const e of start.entries) {
      const key = `${site.stations[e.station]?.id}|${site.programs[e.program]?.id}`;
      seconds.set(key, (seconds.get(key) ?? 0) + e.cycles.reduce((a, b) => a + b, 0));
    }
  return seconds;
}

const times = (site: SiteFile) =>
  plan(site, DATE).runs.map((r) => [r.stationId, r.start.slice(11, 19), r.end.slice(11, 19)]);
const program = (site: SiteFile): Program => site.programs[0] as Program;

describe("dispatch of one night", () => {
  it("a station without cycles or soak of its own has its program's, each for itself", () => {
    const site = smallSite((s) => {
      Object.assign(program(s), { cycle: { count: 2 }, soakMin: 7, runs: program(s).runs.slice(0, 2) });
      Object.assign(s.stations[0] as object, { cycle: { longestMin: 4 } });
      Object.assign(s.stations[1] as object, { soakMin: 0 });
    });
    expect(times(site)).toEqual([
      ["s1", "22:00:00", "22:04:00"],
      ["s2", "22:04:00", "22:09:00"],
      ["s2", "22:09:00", "22:14:00"],
      ["s1", "22:14:00", "22:18:00"],
      ["s1", "22:25:00", "22:27:00"],
    ]);
  });
  it("what is not enabled is as if it were not there: its stations are shortfalls with a warning, the rest runs as without it", () => {
    const second = (change: (s: SiteFile) => void): SiteFile =>
      smallSite((s) => {
        s.mainlines.push({ ...structuredClone(s.mainlines[0] as SiteFile["mainlines"][number]), id: "m2", name: "M2" });
        Object.assign(s.stations[2] as object, { mainlineId: "m2" });
        change(s);
      });
    const without = smallSite((s) => {
      program(s).runs.pop();
    });
    for (const site of [
      second((s) => Object.assign(s.mainlines[1] as object, { enabled: false })),
      second((s) => {
        const off = { id: "p2", name: "P2", sourceIds: ["src"], devices: [], enabled: false };
        s.pocs.push(off);
        Object.assign(s.mainlines[1] as object, { feedIds: ["p2"] });
      }),
    ]) {
      expect(times(site)).toEqual(times(without));
      const { shortfalls, warnings } = plan(site, DATE);
      expect(shortfalls).toEqual([{ stationId: "s3", programId: "p", minutes: 10 }]);
      expect(warnings.map((w) => [w.code, w.subjectId])).toEqual([["noSupply", "s3"]]);
      expect(check(site).filter((f) => f.severity === "error").length).toBe(site.pocs.length > 1 ? 1 : 0);
    }
  });
  it("never passes a ceiling, soak, delay or number at once, and every second is run or short", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 3, max: 40 }, windows: true }), (site) => {
        expect(planFaults(site, plan(site, DATE), due(site))).toEqual([]);
      }),
      { numRuns: 120, seed: 7 },
    );
    fc.assert(
      fc.property(randomSite({ stations: { min: 41, max: 150 }, windows: true }), (site) => {
        expect(planFaults(site, plan(site, DATE), due(site))).toEqual([]);
      }),
      { numRuns: 25, seed: 11 },
    );
  }, 120_000);

  it("equals a plain slow reading of the handbook, second by second", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 2, max: 9 }, windows: true }), (site) => {
        const fast = plan(site, DATE);
        const slow = slowDispatch(site, DATE);
        const key = (r: { stationId: string; programId: string; start: number; end: number; cycle: number }) =>
          `${r.start} ${r.end} ${r.stationId} ${r.programId} ${r.cycle}`;
        expect(
          fast.runs.map((r) => key({ ...r, start: Date.parse(r.start) / 1000, end: Date.parse(r.end) / 1000 })).sort(),
        ).toEqual(slow.runs.map(key).sort());
        expect(Math.round(fast.shortfalls.reduce((a, s) => a + s.minutes * 60, 0))).toBe(slow.shortS);
      }),
      { numRuns: 25, seed: 11 },
    );
  }, 120_000);

  it("equals it, too, where inputs start and pause programs, and keeps every rule", () => {
    let paused = 0;
    fc.assert(
      fc.property(randomSiteWithInputs({ stations: { min: 4, max: 10 }, windows: false }), (site) => {
        const fast = plan(site, DATE);
        const slow = slowDispatch(site, DATE);
        const key = (r: { stationId: string; programId: string; start: number; end: number; cycle: number }) =>
          `${r.start} ${r.end} ${r.stationId} ${r.programId} ${r.cycle}`;
        expect(
          fast.runs.map((r) => key({ ...r, start: Date.parse(r.start) / 1000, end: Date.parse(r.end) / 1000 })).sort(),
        ).toEqual(slow.runs.map(key).sort());
        expect(planFaults(site, fast, due(site))).toEqual([]);
        if (fast.runs.some((r) => r.ended === "input")) paused++;
      }),
      { numRuns: 25, seed: 11 },
    );
    expect(paused).toBeGreaterThan(3);
  }, 120_000);

  it("fill passes over a station that does not fit; strict ends the reading", () => {
    expect(times(smallSite())).toEqual([
      ["s1", "22:00:00", "22:10:00"],
      ["s3", "22:00:00", "22:10:00"],
      ["s2", "22:10:00", "22:20:00"],
    ]);
    expect(
      times(
        smallSite((s) => {
          program(s).dispatch = "strict";
        }),
      ),
    ).toEqual([
      ["s1", "22:00:00", "22:10:00"],
      ["s2", "22:10:00", "22:20:00"],
      ["s3", "22:10:00", "22:20:00"],
    ]);
  });

  it("a later start waits behind the earlier one and says so", () => {
    const site = smallSite((s) => {
      program(s).starts = ["22:00", "22:05"];
      program(s).maxStationsAtOnce = 1;
    });
    const p = plan(site, DATE);
    expect(p.warnings.map((w) => w.code)).toEqual(["startsQueue"]);
    expect(p.runs[3]?.start).toContain("22:30:00");
  });

  it("a start held back by its window is cut by the next one; its rest is short", () => {
    const site = smallSite((s) => {
      program(s).starts = ["21:00", "22:00"];
      program(s).windows = [{ from: "22:00", to: "23:00" }];
    });
    const p = plan(site, DATE);
    expect(p.shortfalls.map((x) => x.minutes)).toEqual([10, 10, 10]);
    expect(p.runs).toHaveLength(3);
    expect(p.warnings[0]?.code).toBe("startCut");
  });

  it("locked-out and oversize stations are shortfalls with a warning and hold nothing back", () => {
    const site = smallSite((s) => {
      (s.stations[0] as { lockedOut?: boolean }).lockedOut = true;
      (s.stations[1] as { designFlowLpm?: number }).designFlowLpm = 151;
    });
    const p = plan(site, DATE);
    expect(p.warnings.map((w) => w.code).sort()).toEqual(["aboveCeiling", "lockedOut"]);
    expect(p.runs.map((r) => r.stationId)).toEqual(["s3"]);
  });

  it("a station without any figure runs alone on its connected system", () => {
    const site = smallSite((s) => {
      delete s.stations[2]?.designFlowLpm;
    });
    expect(times(site)).toEqual([
      ["s1", "22:00:00", "22:10:00"],
      ["s2", "22:10:00", "22:20:00"],
      ["s3", "22:20:00", "22:30:00"],
    ]);
  });

  it("source hours end like a window: the latest opened close, and resume when water is back", () => {
    const site = smallSite((s) => {
      (s.sources[0] as { hours?: unknown }).hours = [
        { from: "21:00", to: "22:04" },
        { from: "22:30", to: "23:30" },
      ];
      program(s).runs = [{ stationId: "s1", minutes: 10 }];
    });
    expect(times(site)).toEqual([
      ["s1", "22:00:00", "22:04:00"],
      ["s1", "22:30:00", "22:36:00"],
    ]);
  });

  it("takes back what leaves a pump under its minimum, and runs the pair that keeps it", () => {
    const pump = (s: SiteFile, min: number): void => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        minFlowLpm: min,
        curve: [
          { flowLpm: 0, headM: 50 },
          { flowLpm: 400, headM: 20 },
        ],
      });
    };
    expect(times(smallSite((s) => pump(s, 120)))).toEqual([
      ["s1", "22:00:00", "22:10:00"],
      ["s3", "22:00:00", "22:10:00"],
    ]);
    const never = plan(
      smallSite((s) => pump(s, 151)),
      DATE,
    );
    expect(never.runs).toEqual([]);
    expect(never.shortfalls).toHaveLength(3);
  });

  it("a running station left under the pump's minimum pauses after 60 s", () => {
    const site = smallSite((s) => {
      s.pocs[0]?.devices.push({
        id: "pump",
        kind: "pump",
        minFlowLpm: 120,
        curve: [
          { flowLpm: 0, headM: 50 },
          { flowLpm: 400, headM: 20 },
        ],
      });
      program(s).runs = [
        { stationId: "s1", minutes: 10 },
        { stationId: "s3", minutes: 5 },
      ];
    });
    const p = plan(site, DATE);
    expect(p.runs.map((r) => [r.stationId, r.end.slice(11, 19)])).toEqual([
      ["s3", "22:05:00"],
      ["s1", "22:06:00"],
    ]);
    expect(p.shortfalls).toEqual([{ stationId: "s1", programId: "p", minutes: 4 }]);
  });

  it("an unlinked controller gets its share, the linked ones what is left", () => {
    const site = smallSite((s) => {
      s.controllers.push({ id: "other", name: "Other", powered: "mains", unlinkedShare: 0.4 });
      s.stations.push({ id: "x", number: 9, name: "X", controllerId: "other", mainlineId: "main", designFlowLpm: 60 });
      s.programs.push({
        id: "q",
        name: "Q",
        controllerId: "other",
        starts: ["22:00"],
        days: { type: "weekdays", days: ["tue"] },
        runs: [{ stationId: "x", minutes: 10 }],
      });
    });
    expect(plan(site, DATE).shortfalls.map((x) => x.stationId)).toEqual(["s1", "s2"]);
    expect(
      plan(site, DATE)
        .runs.map((r) => r.stationId)
        .sort(),
    ).toEqual(["s3", "x"]);
  });

  it("a hold waters again on its date; without end it says so", () => {
    expect(
      plan(
        smallSite((s) => {
          s.site.holdUntil = "2026-07-15";
        }),
        DATE,
      ).runs,
    ).toEqual([]);
    expect(
      plan(
        smallSite((s) => {
          s.site.holdUntil = DATE;
        }),
        DATE,
      ).runs,
    ).toHaveLength(3);
    expect(
      plan(
        smallSite((s) => {
          s.site.holdUntil = "indefinite";
        }),
        DATE,
      ).warnings[0]?.code,
    ).toBe("held");
  });

  it("a program's own hold stops that program alone, says so on nights it was due, and ends on its day", () => {
    const held = smallSite((s) => {
      s.programs.push({
        ...program(s),
        id: "q",
        name: "Q",
        holdUntil: "2026-06-16",
        runs: [{ stationId: "s3", minutes: 4 }],
      });
      program(s).runs = program(s).runs.filter((r) => r.stationId !== "s3");
    });
    const on = (date: string) => plan(held, date);
    expect(on("2026-06-09").runs.map((r) => r.programId)).toEqual(["p", "p"]);
    expect(on("2026-06-09").warnings.map((w) => [w.code, w.message])).toEqual([
      ["held", "Q is held until 2026-06-16."],
    ]);
    expect(on("2026-06-10").warnings).toEqual([]);
    expect(on("2026-06-16").runs.map((r) => r.programId)).toContain("q");
    Object.assign(held.programs[1] as Program, { holdUntil: "indefinite" });
    expect(on("2026-06-16").runs.map((r) => r.programId)).not.toContain("q");
    expect(
      check(held)
        .filter((f) => f.code === "holdWithoutEnd")
        .map((f) => f.subjectId),
    ).toEqual(["q"]);
  });

  it("an hour longer in the night when clocks go back, and the first 02:30 is meant", () => {
    const site = smallSite((s) => {
      program(s).days = { type: "weekdays", days: ["sun"] };
      program(s).starts = ["02:30"];
      program(s).runs = [{ stationId: "s1", minutes: 90 }];
    });
    const [run] = plan(site, "2026-10-25").runs;
    expect([run?.start, run?.end]).toEqual(["2026-10-25T02:30:00+02:00", "2026-10-25T03:00:00+01:00"]);
  });
});
