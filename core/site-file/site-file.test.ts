import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomFile } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { difference } from "./difference.ts";
import { expectedFlow } from "./expected-flow.ts";
import { parseSite, parseSiteText, writeSiteText } from "./parse-site.ts";
import type { Station } from "./schema.ts";

const problems = (change: (file: Record<string, never>) => void) => {
  const file = JSON.parse(writeSiteText(smallSite()));
  change(file as never);
  const parsed = parseSite(file);
  return parsed.ok ? [] : parsed.problems.map((p) => [p.code, p.path]);
};
// biome-ignore lint/suspicious/noExplicitAny: broken files are made on purpose
type Any = any;

describe("site file", () => {
  it("goes out and comes back without loss", () => {
    fc.assert(
      fc.property(randomFile(), (site) => {
        const text = writeSiteText(site);
        const back = parseSiteText(text);
        expect(back.ok && back.site).toEqual(JSON.parse(JSON.stringify(site)));
        expect(back.ok && writeSiteText(back.site)).toBe(text);
      }),
      { numRuns: 60, seed: 5 },
    );
  });

  it("takes words and names of files on every element, and a file's id once", () => {
    const words = { description: "By the gate", notes: "Key under the lid", files: [{ id: "f1", name: "gate.jpg" }] };
    const changed = (list: string, more: object) =>
      problems((f: Any) => {
        const whole: Record<string, object> = { "": f, site: f.site };
        Object.assign(whole[list] ?? f[list][0], more);
      });
    for (const list of ["site", "sources", "pocs", "mainlines", "controllers", "stations", "programs"])
      expect(changed(list, words)).toEqual([]);
    expect(changed("", { files: [{ id: "plan", name: "plan.pdf", about: "Sketch of the site" }] })).toEqual([]);
    expect(changed("pocs", { files: [{ id: "src", name: "twice.jpg" }] })).toEqual([
      ["duplicateId", "pocs[0].files[0].id"],
    ]);
    expect(changed("stations", { notes: "NUL \u0000" })).toEqual([["shape", "stations[0].notes"]]);
    const after = smallSite((s) => Object.assign(s.pocs[0] as object, words));
    expect(difference(smallSite(), after).map((c) => c.words)).toEqual([
      expect.stringMatching(/description.*By the gate/),
      expect.stringMatching(/notes.*Key under the lid/),
      "point of connection Poc: file gate.jpg",
    ]);
  });

  it("writes instants as they are on the site's clock", () => {
    const west = (learnedAt: string) =>
      smallSite((s) => {
        s.site.timeZone = "America/Los_Angeles";
        const [station] = s.stations;
        if (station)
          Object.assign(station, { learned: { meanLpm: 98, sdLpm: 1, at: learnedAt }, repairedAt: learnedAt });
      });
    const words = difference(west("2026-07-01T12:00:00Z"), west("2026-07-15T03:10:00Z")).map((c) => c.words);
    expect(words.join("; ")).toContain("(2026-07-14)");
    expect(words.join("; ")).toContain("2026-07-14 20:10");
    expect(words.join("; ")).not.toContain("2026-07-15");
  });
  it("tells a change of a code in words, and what a person wrote as it stands", () => {
    const words = (change: (s: Any) => void): string[] =>
      difference(smallSite(), smallSite(change)).map((c) => c.words);
    expect(
      words((s) => {
        s.policy.highResponse = "stopAll";
        s.pocs[0].name = "innerCourt";
        s.controllers[0].wirePaths = [{ id: "w", name: "Ring", kind: "twoWire" }];
      }),
    ).toEqual([
      "limits: high response find and isolate → stop all",
      "point of connection innerCourt: name Poc → innerCourt",
      expect.stringMatching(/Ring, kind two wire$/),
    ]);
  });

  it("refuses unknown keys, at any depth, with their path", () => {
    expect(
      problems((f: Any) => {
        f.stations[1].colour = "blue";
      }),
    ).toEqual([["unknownKey", "stations[1].colour"]]);
    expect(
      problems((f: Any) => {
        f.pocs[0].devices[0].size = 1;
      }),
    ).toEqual([["unknownKey", "pocs[0].devices[0].size"]]);
    expect(
      problems((f: Any) => {
        f.programs[0].days.month = 1;
      }),
    ).toEqual([["unknownKey", "programs[0].days.month"]]);
    expect(
      problems((f: Any) => {
        f.stations[0].cycle = { longestMin: 4, extra: 1 };
      }),
    ).toEqual([["unknownKey", "stations[0].cycle.extra"]]);
  });

  it("refuses broken references, double ids, loops and mismatched controllers with their path", () => {
    expect(
      problems((f: Any) => {
        f.stations[0].mainlineId = "gone";
      }),
    ).toEqual([["unknownReference", "stations[0].mainlineId"]]);
    expect(
      problems((f: Any) => {
        f.mainlines[0].id = "poc";
        f.stations = [];
        f.programs = [];
      })[0],
    ).toEqual(["duplicateId", "mainlines[0].id"]);
    expect(
      problems((f: Any) => {
        f.site.weatherPercents = [
          { date: "2026-06-01", percent: 50 },
          { date: "2026-06-01", percent: 60 },
        ];
      })[0],
    ).toEqual(["duplicateDate", "site.weatherPercents[1].date"]);
    expect(
      problems((f: Any) => {
        f.mainlines.push({ id: "b", name: "B", feedIds: ["main"], pipes: [] });
        f.mainlines[0].feedIds.push("b");
      }),
    ).toEqual([["feedLoop", "mainlines[0].feedIds"]]);
    expect(
      problems((f: Any) => {
        f.controllers.push({ id: "c2", name: "C2", powered: "mains" });
        f.programs[0].controllerId = "c2";
      })[0],
    ).toEqual(["controllerMismatch", "programs[0].runs[0].stationId"]);
  });

  it("refuses numbers out of range, text for numbers, impossible dates and times", () => {
    expect(
      problems((f: Any) => {
        f.stations[0].designFlowLpm = -4;
      }),
    ).toEqual([["outOfRange", "stations[0].designFlowLpm"]]);
    expect(
      problems((f: Any) => {
        f.stations[0].designFlowLpm = "90";
      }),
    ).toEqual([["shape", "stations[0].designFlowLpm"]]);
    expect(
      problems((f: Any) => {
        f.site.holdUntil = "2026-02-30";
      }),
    ).toEqual([["shape", "site.holdUntil"]]);
    expect(
      problems((f: Any) => {
        f.programs[0].starts = ["24:10"];
      }),
    ).toEqual([["shape", "programs[0].starts[0]"]]);
    expect(
      problems((f: Any) => {
        f.site.timeZone = "Moon/Crater";
      }),
    ).toEqual([["shape", "site.timeZone"]]);
  });

  it("says of a truncated or foreign file what it is", () => {
    const cut = parseSiteText(writeSiteText(smallSite()).slice(0, 200));
    expect(!cut.ok && cut.problems[0]?.code).toBe("notJson");
    const foreign = parseSiteText('{"hello": 1}');
    expect(!foreign.ok && foreign.problems[0]?.message).toContain("not a Presa site file");
  });
});

describe("difference", () => {
  it("matches elements by id and says what changed in words", () => {
    const before = smallSite();
    const after = structuredClone(before);
    (after.stations[0] as Station).designFlowLpm = 110;
    after.stations.splice(1, 1);
    after.programs[0]?.runs.splice(1, 1);
    (after.programs[0]?.runs[0] as { minutes: number }).minutes = 12;
    after.policy.highPercent = 30;
    expect(difference(before, after).map((c) => c.words)).toEqual([
      "limits: high 20 % → 30 %",
      "station 2 S2 removed",
      "station 1 S1: design flow 100 L/min → 110 L/min",
      "program P: 1 S1 10 → 12 min",
      "program P: s2 taken out",
    ]);
  });
  it("of a site in US units has no metric figure", () => {
    const before = smallSite((s) => {
      s.site.units = "us";
    });
    const after = structuredClone(before);
    Object.assign(after.stations[0] as Station, {
      designFlowLpm: 110,
      requiredKpa: 300,
      areaM2: 92.90304,
      learned: { meanLpm: 75.70823568, sdLpm: 3.785411784, at: "2026-07-01T00:00:00Z" },
    });
    Object.assign(after.pocs[0] as object, { elevationM: 3.048, burstLimitLpm: 378.5411784, burstPersistenceS: 20 });
    expect(
      difference(before, after)
        .map((c) => c.words.replace(/^[^:]*: /, ""))
        .sort(),
    ).toEqual([
      "area none → 1000 ft²",
      "burst limit none → 100 gal/min",
      "burst persistence none → 20 s",
      "design flow 26.42 gal/min → 29.06 gal/min",
      "elevation none → 10 ft",
      "learned none → 20 gal/min ± 1 gal/min (2026-07-01)",
      "required none → 43.51 psi",
    ]);
  });
  it("is empty for the same content and sees a changed order", () => {
    const site = smallSite();
    expect(difference(site, structuredClone(site))).toEqual([]);
    expect(difference(site, { ...site, stations: [...site.stations].reverse() }).map((c) => c.words)).toEqual([
      "order of stations changed",
    ]);
  });
});

describe("expected flow", () => {
  it("is the stored choice, else learned, else entered, else design", () => {
    const s = { designFlowLpm: 1, enteredFlowLpm: 2, learned: { meanLpm: 3, sdLpm: 0, at: "" } } as Station;
    expect(expectedFlow(s)).toEqual({ lpm: 3, from: "learned" });
    expect(expectedFlow({ ...s, expectedFrom: "entered" })).toEqual({ lpm: 2, from: "entered" });
    expect(expectedFlow({ ...s, learned: undefined, enteredFlowLpm: undefined })).toEqual({ lpm: 1, from: "design" });
    expect(expectedFlow({} as Station)).toBeNull();
  });
});
