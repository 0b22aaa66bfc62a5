import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import { parseSite } from "../site-file/parse-site.ts";
import type { Controller, Program, SiteFile } from "../site-file/schema.ts";
import { INVENTED, profileSchema } from "./profile.ts";
import { roundSite } from "./round-site.ts";

const site = (profileId: string, change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    (s.controllers[0] as Controller).profileId = profileId;
    Object.assign(s.stations[0] as object, { cycle: { longestMin: 4 }, soakMin: 10 });
    Object.assign(s.programs[0] as object, {
      seasonalPercent: 87,
      delayS: 7,
      windows: [{ from: "21:00", to: "05:00" }],
    });
    (s.programs[0] as Program).runs = [
      { stationId: "s1", minutes: 10.4 },
      { stationId: "s2", minutes: 10 },
      { stationId: "s3", minutes: 0.2 },
    ];
    change(s);
  });

describe("controller profiles", () => {
  it("the three that ship are of different ability and are described fully", () => {
    for (const { id: _, ...p } of INVENTED) expect(profileSchema.parse(p)).toEqual(p);
    expect(INVENTED.map((p) => p.atOnce)).toEqual([1, 4, 20]);
  });
  it("round what the plain one cannot take, and tell every difference", () => {
    const rounded = roundSite(site("invented-plain"), INVENTED);
    expect(rounded.differences.map((d) => [d.code, d.subjectId, d.wanted, d.taken])).toEqual([
      ["flowLimits", "ctl", "find and isolate", "none"],
      ["cycle", "s1", "4 min", "in one piece"],
      ["percent", "p", 87, 90],
      ["atOnce", "p", 3, 1],
      ["delay", "p", 7, 10],
      ["windows", "p", "water windows", "none"],
      ["minutes", "s1", 10.4, 10],
      ["minutes", "s3", 0.2, 1],
    ]);
    expect(parseSite(rounded.site)).toMatchObject({ ok: true });
    const night = plan(rounded.site, "2026-07-14");
    expect(night.runs.map((r) => r.stationId)).toEqual(["s1", "s2", "s3"]);
    expect((Date.parse(night.runs[1]?.start as string) - Date.parse(night.runs[0]?.end as string)) / 1000).toBe(10);
    expect((Date.parse(night.runs[0]?.end as string) - Date.parse(night.runs[0]?.start as string)) / 1000).toBe(540);
  });
  it("a capable one takes it all; an unknown one is left as it is", () => {
    expect(roundSite(site("invented-large"), INVENTED).differences).toEqual([]);
    const unknown = site("somebody-elses");
    expect(roundSite(unknown, INVENTED)).toEqual({ site: unknown, differences: [] });
  });
  it("limits are brought into its range: the policy's told once, a station's own by itself", () => {
    const rounded = roundSite(
      site("invented-middle", (s) => {
        Object.assign(s.policy, { highPercent: 150, persistenceS: 20 });
        Object.assign(s.stations[1] as object, { lowPercent: 5 });
      }),
      INVENTED,
    );
    const limits = rounded.differences.filter((d) => ["high", "low", "persistence"].includes(d.code));
    expect(limits.map((d) => [d.code, d.subjectId, d.wanted, d.taken])).toEqual([
      ["high", "ctl", 150, 100],
      ["persistence", "ctl", 20, 30],
      ["low", "s2", 5, 10],
    ]);
    expect(rounded.site.stations.map((s) => [s.highPercent, s.lowPercent])).toEqual([
      [100, undefined],
      [100, 10],
      [100, undefined],
    ]);
    expect(parseSite(rounded.site)).toMatchObject({ ok: true });
  });
  it("a range that ends before it begins is refused", () => {
    const { id: _, ...middle } = INVENTED[1] as (typeof INVENTED)[number];
    expect(profileSchema.safeParse({ ...middle, limitFromPercent: 60, limitToPercent: 20 }).success).toBe(false);
    expect(profileSchema.safeParse({ ...middle, limitToPercent: undefined }).success).toBe(true);
  });
  it("programs and starts beyond what it has are told and do not run", () => {
    const many = site("invented-plain", (s) => {
      const p = s.programs[0] as Program;
      p.starts = ["01:00", "03:00", "05:00", "19:00", "21:00"];
      for (const id of ["q", "r", "t"]) s.programs.push({ ...p, id, name: id, starts: ["22:00"] });
    });
    const rounded = roundSite(many, INVENTED);
    expect(rounded.differences.filter((d) => d.code === "programs").map((d) => d.subjectId)).toEqual(["t"]);
    expect(rounded.differences.find((d) => d.code === "starts")?.taken).toBe("01:00 03:00 05:00 19:00");
    expect(rounded.site.programs[3]?.enabled).toBe(false);
  });
  it("the percents of site and program round together", () => {
    const rounded = roundSite(
      site("invented-middle", (s) => {
        s.site.seasonalPercent = 90;
      }),
      INVENTED,
    );
    expect(rounded.differences.find((d) => d.code === "percent")).toMatchObject({ wanted: 78.3, taken: 80 });
    expect(((rounded.site.programs[0]?.seasonalPercent ?? 0) * 90) / 100).toBeCloseTo(80, 9);
  });
  it("leave random sites in steps the controller has, and change nothing the second time", () => {
    fc.assert(
      fc.property(
        randomSite({ stations: { min: 1, max: 20 }, windows: true }),
        fc.constantFrom(...INVENTED),
        (drawn, profile) => {
          const named = { ...drawn, controllers: drawn.controllers.map((c) => ({ ...c, profileId: profile.id })) };
          const once = roundSite(named, INVENTED).site;
          expect(parseSite(once)).toMatchObject({ ok: true });
          const onGrid = (value: number, step: number): boolean =>
            Math.abs(value / step - Math.round(value / step)) < 1e-4;
          for (const p of once.programs.filter((q) => q.enabled !== false)) {
            expect(p.starts.length).toBeLessThanOrEqual(profile.startsPerProgram);
            expect(p.maxStationsAtOnce ?? 1).toBeLessThanOrEqual(profile.atOnce);
            expect(onGrid(p.delayS ?? 0, profile.delayStepS) && (p.delayS ?? 0) <= profile.delayMaxS).toBe(true);
            expect(
              onGrid(((p.seasonalPercent ?? 100) * (once.site.seasonalPercent ?? 100)) / 100, profile.percentStep),
            ).toBe(true);
            for (const r of p.runs) expect(onGrid(r.minutes, profile.minuteStep)).toBe(true);
          }
          // What is only told (flow limits, days, stations, programs too many) is told again; what was rounded is not.
          const again = roundSite(once, INVENTED);
          expect(
            again.differences.filter(
              (d) => !["flowLimits", "days", "stations", "programs", "high", "low", "persistence"].includes(d.code),
            ),
          ).toEqual([]);
          expect(again.site).toEqual(once);
        },
      ),
      { numRuns: 60, seed: 12 },
    );
  });
});
