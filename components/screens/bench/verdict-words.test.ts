import { describe, expect, it } from "vitest";
import { conventions } from "@/components/kit/conventions";
import type { Verdict } from "@/core/limits/verdict";
import { smallSite } from "@/testing/small-site";
import { verdictWords } from "./verdict-words";

const missed = (size: number): Verdict => ({
  kind: "brokenOutlet",
  subjectId: "s1",
  from: "2026-07-14T22:00:00+02:00",
  size,
  actedS: 600,
  alarm: null,
  locked: [],
  why: { code: "insideBand", roomLpm: 40, withStations: 1 },
});
const words = (v: Verdict, fromLpm: number | null): string =>
  verdictWords(smallSite(), v, conventions("metric"), [{ stationId: "s1", fromLpm, besideIds: [] }]).words;

describe("the verdict over a fault that no limit saw", () => {
  it("says that the night's readings name it, where it is as large as they can tell", () => {
    expect(words(missed(15), 12)).toMatch(/passed unseen\. .* Found next morning: the night's readings name it\.$/);
    expect(words(missed(15), 16)).not.toContain("Found next morning");
    expect(words(missed(15), null)).not.toContain("Found next morning");
    expect(verdictWords(smallSite(), missed(99), conventions("metric"), null).words).not.toContain("next morning");
  });
  it("of one that was seen says when, whatever the night would have told", () => {
    const alarm = { at: "2026-07-14T22:03:00+02:00", kind: "high", subjectId: "s1", afterS: 180 };
    expect(words({ ...missed(99), alarm, locked: ["s1"], why: null }, 1)).toMatch(/seen after 3 min; shut off: .*S1/);
  });
});
