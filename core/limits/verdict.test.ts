import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { instantOf } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { FaultRequest } from "../bench/faults/resolve.ts";
import { simulate } from "../bench/simulate.ts";
import { faultTime, verdicts } from "./verdict.ts";

const DATE = "2026-07-14";
const FIRST = instantOf("Europe/Vienna", DATE, "22:00");
const of = (site: SiteFile, fault: FaultRequest) => {
  const night = simulate(site, { date: DATE, faults: [fault], exact: true });
  if (!night.ok) throw new Error("refused");
  return verdicts(site, DATE, [fault], FIRST, night.result)[0];
};
const lateral = (more: Partial<FaultRequest> = {}): FaultRequest => ({
  kind: "brokenLateral",
  subjectId: "s1",
  at: "+0",
  ...more,
});

describe("the verdict over a fault", () => {
  it("a break over its limit is seen, with when and what was shut off", () => {
    expect(of(smallSite(), lateral())).toMatchObject({ why: null, alarm: { subjectId: "s1" }, locked: ["s1"] });
  });

  it("a break that is small beside what runs passes inside the band, and says how wide that is", () => {
    expect(of(smallSite(), lateral({ size: 3 }))).toMatchObject({ alarm: null, why: { code: "insideBand" } });
  });

  it("a break that is there only while the station is shut never acts", () => {
    expect(of(smallSite(), lateral({ at: "+3600" }))).toMatchObject({ actedS: 0, why: { code: "neverInUse" } });
  });

  it("an unmonitored station is not watched", () => {
    const site = smallSite((s) => {
      for (const x of s.stations) x.monitored = false;
    });
    expect(of(site, lateral())).toMatchObject({ why: { code: "notWatched" } });
  });

  it("with a persistence longer than any run nothing is judged to the end", () => {
    const site = smallSite((s) => {
      s.policy.persistenceS = 3600;
    });
    expect(of(site, lateral())).toMatchObject({ why: { code: "neverJudged", persistenceS: 3600 } });
  });
});

describe("a time of a fault as it is typed", () => {
  it.each([
    ["22:15", "+900"],
    ["22:15:30", "+930"],
    ["10.15 pm", "+900"],
    ["2200", "+0"],
    ["01:30", "+12600"],
    ["1am", "+10800"],
    ["+42", "+42"],
  ])("%s is %s", (text, at) => {
    expect(faultTime(text, "Europe/Vienna", DATE, FIRST)).toBe(at);
  });
  it.each(["", "25:00", "soon", "13 pm", "22:75"])("%s is none", (text) => {
    expect(faultTime(text, "Europe/Vienna", DATE, FIRST)).toBeNull();
  });
});
