import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { parseSite } from "./parse-site.ts";
import type { SiteFile } from "./schema.ts";
import { MOST_OPENINGS, tooMuch } from "./size-limits.ts";

const file = (change: (s: SiteFile) => void): unknown => {
  const site = structuredClone(smallSite());
  change(site);
  return site;
};
const problems = (change: (s: SiteFile) => void) => {
  const read = parseSite(file(change));
  return read.ok ? [] : read.problems;
};

describe("a file that would make too much of a night", () => {
  it("is refused in words: five stations in cycles of six seconds all day", () => {
    const [problem] = problems((s) => {
      for (const x of s.stations) x.cycle = { longestMin: 0.1 };
      for (const p of s.programs) for (const r of p.runs) r.minutes = 1440;
    });
    expect(problem).toMatchObject({ code: "outOfRange", path: "programs[0].runs" });
    expect(problem?.message).toMatch(/With program P valves would open 43,200 times in a night; at most 20,000/);
  });
  it("counts starts and percents, and programs together", () => {
    const cycles = (minutes: number, change: (s: SiteFile) => void = () => {}) =>
      problems((s) => {
        for (const x of s.stations) x.cycle = { longestMin: 1 };
        for (const p of s.programs) for (const r of p.runs) r.minutes = minutes;
        change(s);
      });
    expect(cycles(1440)).toEqual([]);
    expect(
      cycles(1440, (s) => {
        (s.programs[0] as { starts: string[] }).starts = ["01:00", "05:00", "09:00", "13:00", "20:00"];
      }),
    ).toHaveLength(1);
    expect(
      cycles(800, (s) => {
        s.site.seasonalPercent = 1000;
      }),
    ).toHaveLength(1);
    expect(
      cycles(1000, (s) => {
        s.programs = Array.from({ length: 8 }, (_, i) => ({
          ...(s.programs[0] as SiteFile["programs"][number]),
          id: `p${i}`,
        }));
      })[0]?.path,
    ).toBe("programs[6].runs");
  });
  it("does not count what is switched off, and lets the largest sites be", () => {
    const large = smallSite((s) => {
      s.stations = Array.from({ length: 10_000 }, (_, i) => ({
        ...(s.stations[0] as SiteFile["stations"][number]),
        id: `s${i}`,
        number: i + 1,
      }));
      for (const p of s.programs)
        Object.assign(p, {
          starts: ["20:00", "23:00", { at: "05:00", off: true }],
          runs: s.stations.map((x) => ({ stationId: x.id, minutes: 4 })),
        });
    });
    expect(tooMuch(large)).toEqual([]);
    expect(MOST_OPENINGS).toBe(20_000);
  });
});

describe("a text that no database keeps", () => {
  it("is refused where it stands", () => {
    expect(
      problems((s) => {
        s.site.name = "Nul\u0000 yard";
      }),
    ).toEqual([{ code: "shape", path: "site.name", message: "site.name is not right: it holds the character NUL." }]);
  });
});
