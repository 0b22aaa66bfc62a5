import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { instantOf } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type NightWarning, type NightWarningCode, warnOnce } from "./night-warnings.ts";
import { warningLines, warningWords } from "./night-words.ts";
import { plan } from "./plan.ts";

const NIGHT = "2026-07-14";
const clock = (hhmm: string): number => instantOf("Europe/Vienna", NIGHT, hhmm);

describe("a warning in words", () => {
  const held = smallSite((s) => {
    s.site.holdUntil = "2026-08-01";
    Object.assign(s.programs[0] as object, { holdUntil: "indefinite" });
  });
  it.each<[NightWarning, RegExp]>([
    [{ code: "held", subjectId: "small" }, /^The site is held until 2026-08-01: nothing waters before that day\.$/],
    [{ code: "held", subjectId: "p" }, /^P is held with no end set\.$/],
    [{ code: "controllerOff", subjectId: "ctl" }, /^Controller Controller is off: its programs do not run\.$/],
    [
      { code: "startsQueue", subjectId: "p", at: clock("23:00"), otherAt: clock("22:00") },
      /^P: the 23:00 start waits until the 22:00 start has ended\.$/,
    ],
    [
      { code: "startCut", subjectId: "p", at: clock("22:00"), otherAt: clock("23:30") },
      /^P: the 22:00 start was held back by its window and is cut by the 23:30 start\.$/,
    ],
    [{ code: "startTwice", subjectId: "p" }, /^P: two of its starts fall on one instant/],
    [{ code: "timeSkipped", subjectId: "p" }, /^P: the clock change skips one of its start times/],
    [{ code: "dayEnd", subjectId: "p" }, /^P: 24 hours after its start it was still not done/],
    [{ code: "noFlow", subjectId: "s1" }, /^Station 1 S1 has no flow figure\. .*learn it\.$/],
    [{ code: "lockedOut", subjectId: "s2" }, /^Station 2 S2 is locked out, .*Clear the lockout in the Log\.$/],
    [{ code: "aboveCeiling", subjectId: "s2" }, /^Station 2 S2 alone is above a ceiling on its way\./],
    [{ code: "noSupply", subjectId: "s3" }, /^Station 3 S3 has no way to an enabled source\./],
    [{ code: "pumpMinimum", subjectId: "s3" }, /^Station 3 S3 leaves its pump under the minimum flow\./],
  ])("%o", (warning, words) => {
    expect(warningWords(held, warning)).toMatch(words);
  });
});

describe("warnings for people", () => {
  const locked = (count: number): SiteFile =>
    smallSite((s) => {
      for (const station of s.stations.slice(0, count)) station.lockedOut = true;
    });
  const lines = (site: SiteFile): string[] => warningLines(site, plan(site, NIGHT).warnings);
  it("say what is said of several stations once, and name them", () => {
    expect(lines(locked(2))).toEqual([
      "2 stations are locked out, or everything that could feed them is. Clear the lockouts in the Log: 1 S1, 2 S2.",
    ]);
  });
  it("leave a single one as it is, and what is said of programs", () => {
    expect(lines(locked(1))).toEqual([
      "Station 1 S1 is locked out, or everything that could feed it is. Clear the lockout in the Log.",
    ]);
    const queued = smallSite((s) => {
      Object.assign(s.programs[0] as object, { starts: ["22:00", "22:05", "22:10"] });
    });
    expect(lines(queued)).toHaveLength(plan(queued, NIGHT).warnings.length);
  });
  it("name four, and how many more", () => {
    const many = smallSite((s) => {
      s.stations = Array.from({ length: 7 }, (_, i) => ({
        ...(s.stations[0] as SiteFile["stations"][number]),
        id: `s${i + 1}`,
        number: i + 1,
        name: `S${i + 1}`,
        lockedOut: true,
      }));
      const [program] = s.programs;
      if (program) program.runs = s.stations.map((x) => ({ stationId: x.id, minutes: 5 }));
    });
    expect(lines(many)).toEqual([expect.stringMatching(/^7 stations .*: 1 S1, 2 S2, 3 S3, 4 S4 and 3 more\.$/)]);
  });
});

describe("a warning is told once", () => {
  const told = (...list: [NightWarningCode, string?, number?][]): NightWarning[] => {
    const warnings: NightWarning[] = [];
    for (const [code, subject, at] of list) warnOnce(warnings, code, subject, at);
    return warnings;
  };
  it("of a subject, but for starts that queue: those once a start", () => {
    expect(told(["noFlow", "s1", 10], ["noFlow", "s1", 20], ["noFlow", "s2", 20])).toHaveLength(2);
    expect(told(["startsQueue", "p", 10], ["startsQueue", "p", 20], ["startsQueue", "p", 20])).toHaveLength(2);
  });
  it("keeps no empty fields", () => {
    expect(told(["held"])).toEqual([{ code: "held" }]);
  });
});
