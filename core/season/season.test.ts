import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { isDue } from "../calendar/due.ts";
import { addDays } from "../dates/wall-time.ts";
import { check } from "../check/check.ts";
import { plan } from "../dispatch/plan.ts";
import { parseSite } from "../site-file/parse-site.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { returnOn, unfinishedTapers, USUAL_STEPS, withEstablishment } from "./establishment.ts";
import { monthBudgetM3, monthWaterM3 } from "./month-water.ts";
import { oneOff } from "./one-off.ts";
import { stoppedByWeather } from "./weather-stop.ts";

const ids = () => {
  let n = 0;
  return () => `e${++n}`;
};
const everyNight = (s: SiteFile): void => {
  (s.programs[0] as Program).days = { type: "interval", everyDays: 1, anchor: "2026-01-01" };
};

describe("establishment", () => {
  const NOW = { first: "2026-04-01", today: "2026-04-01" };
  const site = smallSite(everyNight);
  const made = withEstablishment(site, "p", ["s1", "s3"], USUAL_STEPS, NOW, ids());
  const waters = (station: string, date: string): Program[] =>
    made.programs.filter((p) => isDue(p, date) && p.runs.some((r) => r.stationId === station));
  it("is dated steps, one after another, and then the usual program again", () => {
    expect(parseSite(made)).toMatchObject({ ok: true });
    const back = returnOn(USUAL_STEPS, "2026-04-01");
    expect(back).toBe("2026-05-13");
    for (let d = "2026-04-01"; d < back; d = addDays(d, 1))
      expect(
        waters("s1", d).filter((p) => !p.name.startsWith("Establishment")),
        d,
      ).toEqual([]);
    expect(waters("s1", "2026-04-03").flatMap((p) => p.starts)).toHaveLength(4);
    expect(waters("s1", "2026-04-25").flatMap((p) => p.starts)).toHaveLength(1);
    expect(waters("s1", back).map((p) => p.name)).toEqual(["P, after establishment"]);
    for (const d of ["2026-04-03", "2026-05-20"]) expect(waters("s2", d).map((p) => p.id)).toEqual(["p"]);
    expect(unfinishedTapers(made)).toEqual([]);
  });
  it("of a whole program leaves the program itself to begin again", () => {
    const whole = withEstablishment(site, "p", ["s1", "s2", "s3"], USUAL_STEPS, NOW, ids());
    expect(whole.programs.map((p) => [p.id, p.from])).toEqual([
      ["p", "2026-05-13"],
      ...[
        ["e1", "2026-04-01"],
        ["e2", "2026-04-08"],
        ["e3", "2026-04-15"],
        ["e4", "2026-04-22"],
        ["e5", "2026-04-29"],
      ],
    ]);
  });
  it("that begins later leaves no day without water before it, and none with both", () => {
    for (const stations of [
      ["s1", "s3"],
      ["s1", "s2", "s3"],
    ]) {
      const later = withEstablishment(site, "p", stations, USUAL_STEPS, { ...NOW, today: "2026-03-20" }, ids());
      expect(parseSite(later)).toMatchObject({ ok: true });
      const usual = (d: string): string[] =>
        later.programs
          .filter((p) => !p.name.startsWith("Establishment") && isDue(p, d) && p.runs.some((r) => r.stationId === "s1"))
          .map((p) => p.name);
      for (let d = "2026-03-20"; d < "2026-04-01"; d = addDays(d, 1))
        expect(usual(d)).toEqual(["P, until establishment"]);
      for (let d = "2026-04-01"; d < "2026-05-13"; d = addDays(d, 1)) expect(usual(d)).toEqual([]);
      expect(usual("2026-05-13")).toHaveLength(1);
    }
  });
  it("raises no finding of its own making: it waters by day on purpose, and follows its usual program", () => {
    const sprayed = smallSite((s) => {
      everyNight(s);
      for (const x of s.stations) x.emitter = "spray";
    });
    const codes = (s: SiteFile): string[] => check(s).map((f) => f.code);
    const grown = withEstablishment(sprayed, "p", ["s1"], USUAL_STEPS, { ...NOW, today: "2026-03-20" }, ids());
    expect(codes(grown)).toEqual(codes(sprayed));
    const both = structuredClone(sprayed);
    both.programs.push({ ...structuredClone(both.programs[0] as Program), id: "q", name: "Q", from: "2026-06-01" });
    expect(codes(both)).toContain("inTwoPrograms");
  });
  it("counts against the budget in its own months only", () => {
    const over = (april: number): string[] => {
      const budgeted = structuredClone(made);
      (budgeted.sources[0] as SiteFile["sources"][number]).monthlyBudgetM3 = Array.from(
        { length: 12 },
        (_, m) => ({ 3: april, 4: 90 })[m] ?? 80,
      );
      return check(budgeted)
        .filter((f) => f.code === "overBudget")
        .map((f) => f.message);
    };
    expect(over(120)).toEqual([]);
    expect(over(100)).toEqual([expect.stringMatching(/^In April /)]);
  });
  it("a taper that nothing takes over is a finding", () => {
    const cut = { ...made, programs: made.programs.filter((p) => p.name !== "P, after establishment") };
    const last = cut.programs[cut.programs.length - 1] as Program;
    expect(unfinishedTapers(cut)).toEqual([{ program: last, stationIds: ["s1", "s3"] }]);
    expect(check(cut).map((f) => f.code)).toContain("taperUnfinished");
    expect(check(made).map((f) => f.code)).not.toContain("taperUnfinished");
  });
});

describe("one-off runs", () => {
  const at = Date.parse("2026-07-15T08:30:00Z") / 1000;
  const site = smallSite((s) => {
    everyNight(s);
    Object.assign(s.stations[0] as object, { cycle: { count: 3 }, soakMin: 20 });
  });
  it("one station: its minutes, its water, and no weather", () => {
    const run = oneOff(site, { kind: "station", stationId: "s3", minutes: 6 }, at);
    expect([run.litres, run.seconds, run.ignoresWeather, run.plan.runs[0]?.start]).toEqual([
      300,
      360,
      true,
      "2026-07-15T10:30:00+02:00",
    ]);
  });
  it("a program from a station on, or without one", () => {
    expect(
      oneOff(site, { kind: "program", programId: "p", fromStationId: "s2" }, at).plan.runs.map((r) => r.stationId),
    ).toEqual(["s2", "s3"]);
    const skipped = oneOff(
      { ...site, site: { ...site.site, seasonalPercent: 50 } },
      { kind: "program", programId: "p", skipStationId: "s2" },
      at,
    );
    const minutes = (id: string): number =>
      skipped.plan.runs
        .filter((r) => r.stationId === id)
        .reduce((sum, r) => sum + (Date.parse(r.end) - Date.parse(r.start)) / 60_000, 0);
    expect([minutes("s1"), minutes("s2"), minutes("s3"), skipped.plan.runs.length]).toEqual([5, 0, 5, 4]);
  });
  it("a walk test opens every station in order of number, one at a time", () => {
    const walk = oneOff(site, { kind: "walk", controllerId: "ctl", minutes: 2 }, at);
    expect(walk.plan.runs.map((r) => r.stationId)).toEqual(["s1", "s2", "s3"]);
    expect([walk.seconds, walk.litres]).toEqual([360, 500]);
  });
});

describe("weather inputs", () => {
  const site = smallSite((s) => {
    s.weatherInputs = [
      { id: "rain", name: "Rain dish", kind: "rain" },
      { id: "frost", name: "Frost", kind: "freeze", bypassed: true },
    ];
    Object.assign(s.stations.find((x) => x.id === "s2") as object, { ignoresInputs: ["rain"] });
  });
  it("stop the stations that follow them, and no others", () => {
    const wet = stoppedByWeather(site, ["rain"]);
    expect(wet).toMatchObject({ stopped: ["s1", "s3"], waterOn: ["s2"] });
    expect(plan(wet.site, "2026-06-09").runs.map((r) => r.stationId)).toEqual(["s2"]);
    expect(plan(wet.site, "2026-06-09").shortfalls).toEqual([]);
    expect(parseSite(wet.site)).toMatchObject({ ok: true });
  });
  it("stop nothing when bypassed or unknown, and a bypass is a finding", () => {
    expect(stoppedByWeather(site, ["frost", "snow"])).toEqual({ site, stopped: [], waterOn: ["s1", "s2", "s3"] });
    expect(
      check(site)
        .filter((f) => f.code === "inputBypassed")
        .map((f) => f.subjectId),
    ).toEqual(["frost"]);
  });
  it("make a percent of single days, bypassed apart from the stops", () => {
    const dry = smallSite((s) => {
      s.site.weatherPercents = [{ date: "2026-06-09", percent: 45 }];
      s.site.seasonalPercent = 80;
    });
    const lasts = (s: SiteFile, date: string) =>
      plan(s, date).runs.map((r) => (Date.parse(r.end) - Date.parse(r.start)) / 1000);
    expect(lasts(dry, "2026-06-09")).toEqual([216, 216, 216]);
    expect(lasts(dry, "2026-06-16")).toEqual([480, 480, 480]);
    const bypassed = { ...dry, site: { ...dry.site, weatherPercentBypassed: true } };
    expect(lasts(bypassed, "2026-06-09")).toEqual([480, 480, 480]);
    expect(check(bypassed).map((f) => f.path)).toContain("site.weatherPercentBypassed");
    expect(check(dry).map((f) => f.path)).not.toContain("site.weatherPercentBypassed");
  });
  it("never touch a station that ignores the input, nor the minutes of any other night", () => {
    fc.assert(
      fc.property(
        randomSite({ stations: { min: 1, max: 15 }, windows: true }),
        fc.array(fc.boolean(), { minLength: 15, maxLength: 15 }),
        (drawn, ignores) => {
          const wetted = {
            ...drawn,
            weatherInputs: [{ id: "wet", name: "Wet", kind: "rain" as const }],
            stations: drawn.stations.map((s, i) => (ignores[i] ? { ...s, ignoresInputs: ["wet"] } : s)),
          };
          const { site: left, stopped, waterOn } = stoppedByWeather(wetted, ["wet"]);
          expect(left.programs.flatMap((p) => p.runs)).toEqual(
            wetted.programs
              .flatMap((p) => p.runs)
              .filter((r) => wetted.stations.find((s) => s.id === r.stationId)?.ignoresInputs),
          );
          expect(stopped.filter((id) => waterOn.includes(id))).toEqual([]);
          expect(plan(left, "2026-07-14").runs.every((r) => waterOn.includes(r.stationId))).toBe(true);
        },
      ),
      { numRuns: 40, seed: 14 },
    );
  });
});

describe("water of a month", () => {
  const yearly = (change: (s: SiteFile) => void = () => {}): SiteFile =>
    smallSite((s) => {
      everyNight(s);
      change(s);
    });
  it("is days that are due × starts × litres, with the month's percent", () => {
    const site = yearly((s) => {
      Object.assign(s.programs[0] as object, {
        starts: ["22:00", "03:00"],
        monthlyPercent: [100, 50, 100, 100, 100, 100, 100, 100, 100, 100, 100, 0],
      });
    });
    expect([0, 1, 11].map((m) => monthWaterM3(site, m))).toEqual([31 * 2 * 2.5, 28 * 2 * 1.25, 0]);
    expect(monthWaterM3(site, 0, [])).toBe(0);
  });
  it("a program that is off, and a step in other months, take nothing", () => {
    expect(
      monthWaterM3(
        yearly((s) => {
          (s.programs[0] as Program).enabled = false;
        }),
        5,
      ),
    ).toBe(0);
    const step = yearly((s) => {
      Object.assign(s.programs[0] as object, { from: "2026-06-10", until: "2026-06-19" });
    });
    expect([4, 5, 6].map((m) => monthWaterM3(step, m))).toEqual([0, 25, 0]);
  });
  it("budgets of the sources in use are summed; one without a budget leaves none", () => {
    const site = yearly((s) => {
      Object.assign(s.sources[0] as object, { monthlyBudgetM3: Array(12).fill(40) });
      s.sources.push(
        { id: "b", name: "B", kind: "well", monthlyBudgetM3: Array(12).fill(2) },
        { id: "c", name: "C", kind: "well", enabled: false },
      );
    });
    expect(monthBudgetM3(site, 3)).toBe(42);
    expect(monthBudgetM3({ ...site, sources: site.sources.map((x) => ({ ...x, enabled: true })) }, 3)).toBeNull();
  });
});
