import { beforeAll, describe, expect, it } from "vitest";
import { dates, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";
import { tryReckoning } from "../../testing/reckoned-trial.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { sharesOf } from "./drawing.ts";
import { findingWords } from "./finding-words.ts";
import { continued, type Finding } from "./findings.ts";
import { nightMarks } from "./night-marks.ts";
import { type KeptNight, keptNights, toldMornings } from "./kept-nights.ts";
import { readTogether, type Reckoning, reckon, reckonMornings } from "./reckon.ts";
import type { Log } from "./stretches.ts";

/* Nights of the real, noisy bench. What the trials print for a hundred sites (npm run bench) is asked here of a few. */

const SEED = 1;
const { ground, known } = reckonedSite(SEED, 12);
const night = (n: number, faults: unknown[] = []): Log =>
  nightLog(ground, dates("2026-07-01", n + 1)[n] as string, faults, 50 + n);
const reckoned = (logs: Log[], site: SiteFile = known): Reckoning => reckon(waterworks(site), logs) as Reckoning;
const outlet = (id: string, size: number): unknown => ({ kind: "brokenOutlet", subjectId: id, at: "00:00:00", size });

describe("nights without a fault", () => {
  let three: Reckoning;
  beforeAll(() => {
    three = reckoned([night(0), night(1), night(2)]);
  });
  it("name nothing, whatever the supply does meanwhile", () => {
    expect(three.found).toEqual([]);
    expect(three.nights).toBe(3);
  });
  it("make every figure that they see surer, and no worse than it was", () => {
    const off = (lpm: (s: Reckoning["stations"][number]) => number): number =>
      Math.sqrt(
        three.stations.reduce(
          (sum, s, i) => sum + (lpm(s) / (ground.stations[i]?.enteredFlowLpm as number) - 1) ** 2,
          0,
        ),
      );
    expect(off((s) => s.nowLpm as number)).toBeLessThan(off((s) => s.expectedLpm as number));
    for (const s of three.stations) {
      expect(s.seenAlone + s.seenInSets).toBeGreaterThan(0);
      expect(s.sdLpm as number).toBeLessThan(0.015 * (s.expectedLpm as number));
    }
  });
  it("teach what sets draw, nearer to what they drew than the sum of their stations' figures; those of the week to come by the network", () => {
    const sets = three.sets ?? [];
    const read = sets.filter((s) => s.nights > 1);
    expect(read.length).toBeGreaterThan(5);
    const really = waterworks(ground);
    const off = (lpm: (s: (typeof read)[number]) => number): number =>
      read.reduce((sum, s) => {
        const places = s.stationIds.map((id) => ground.stations.findIndex((x) => x.id === id));
        const shares = sharesOf(really, places);
        const truth = places.reduce((a, p) => a + (shares.get(p) ?? 1) * (ground.stations[p]?.enteredFlowLpm ?? 0), 0);
        return sum + (lpm(s) / truth - 1) ** 2;
      }, 0);
    expect(off((s) => s.ratio * s.partsLpm)).toBeLessThan(off((s) => s.partsLpm));
    for (const s of sets) expect(s.drawn).toBeGreaterThan(0.7);
  });
  it("are reckoned alike in whatever order their logs are given", () => {
    expect(reckoned([night(2), night(0), night(1)])).toEqual(three);
  });
});

describe("an outlet that broke", () => {
  it("is named the first morning, with its size, since when, and what it let away", () => {
    const { found } = reckoned([night(0, [outlet("s3", 20)])]);
    expect(found).toHaveLength(1);
    const [one] = found;
    expect(one).toMatchObject({ kind: "step", subjectIds: ["s3"], certain: true, named: "2026-07-01" });
    expect(Math.abs((one?.changeLpm as number) - 20)).toBeLessThan(3 * (one?.sdLpm as number));
    expect(one?.since.slice(0, 10)).toBe("2026-07-01");
    expect(one?.litres).toBeGreaterThan(100);
    const words = findingWords(known, one as NonNullable<typeof one>);
    expect(words.head).toMatch(
      /^a break likely at 4 S4 since Wed 1 Jul, [\d.]+ ± [\d.]+ L\/min, [\d.,]+ (L|m³) so far$/,
    );
  });
  it("is told from one before: of two, each is named beside the other, each since its own night", () => {
    const { found } = reckoned([night(0, [outlet("s3", 20)]), night(1, [outlet("s3", 20), outlet("s9", 25)])]);
    expect(found.map((f) => [f.subjectIds, f.certain, f.since.slice(0, 10)])).toEqual(
      expect.arrayContaining([
        [["s3"], true, "2026-07-01"],
        [["s9"], true, "2026-07-02"],
      ]),
    );
    expect(found).toHaveLength(2);
  });
  it("is no certain one where its figure is the design's only", () => {
    const design = structuredClone(known);
    const s = design.stations[3];
    if (!s) throw new Error("no station");
    s.designFlowLpm = s.learned?.meanLpm ?? 0;
    for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const { found } = reckoned([night(0, [outlet("s3", 45)])], design);
    expect(found.filter((f) => f.certain)).toEqual([]);
  });
});

describe("a station without any figure", () => {
  it("is found out by its sets, and nobody beside it is blamed", () => {
    const without = structuredClone(known);
    const s = without.stations[3];
    if (!s) throw new Error("no station");
    for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const { found, stations } = reckoned([night(0)], without);
    expect(found.filter((f) => f.certain)).toEqual([]);
    expect(stations[3]).toMatchObject({ expectedLpm: null });
    expect(Math.abs((stations[3]?.nowLpm as number) - 128)).toBeLessThan(4 * (stations[3]?.sdLpm as number));
  });
});

describe("a site without any figure", () => {
  it("has nothing to compare with: nothing is named, and what its stations flow is told by their sets", () => {
    const none = structuredClone(known);
    for (const s of none.stations) for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    const { found, stations } = reckoned([night(0), night(1)], none);
    expect(found.filter((f) => f.certain)).toEqual([]);
    const first = stations[3];
    expect(Math.abs((first?.nowLpm as number) - 128)).toBeLessThan(4 * (first?.sdLpm as number));
  });
});

describe("mornings one after the other", () => {
  const logs = [night(0), night(1, [outlet("s3", 20)]), night(2, [outlet("s3", 20)])];
  const w = waterworks(known);
  it("know the same as all of them together, and go on from what was kept", () => {
    const all = [...reckonMornings(w, readTogether(w, logs))];
    expect(all.map((m) => [m.night, m.reckoning.found.map((f) => f.subjectIds)])).toEqual([
      ["2026-07-01", []],
      ["2026-07-02", [["s3"]]],
      ["2026-07-03", [["s3"]]],
    ]);
    const kept = JSON.parse(JSON.stringify(logs.flatMap((l) => keptNights(w, l)))) as KeptNight[];
    const before = all[1]?.reckoning.found as Finding[];
    const [last, ...none] = [...toldMornings(w, kept, before, "2026-07-03")];
    expect(none).toEqual([]);
    expect(last?.reckoning).toEqual(all[2]?.reckoning);
    expect(last?.words.map((x) => x.head)).toEqual([expect.stringMatching(/ at 4 S4 since /)]);
  });
  it("pass over what was read of stations that are gone", () => {
    const kept = keptNights(w, night(0));
    const without = structuredClone(known);
    without.stations = without.stations.filter((s) => s.id !== "s3");
    for (const p of without.programs) p.runs = p.runs.filter((r) => r.stationId !== "s3");
    const [told] = [...toldMornings(waterworks(without), kept, [], "")];
    const all = kept.flatMap((k) => k.stretches);
    expect(told?.reckoning.stretches).toBe(all.filter((s) => !s.openIds.includes("s3")).length);
    expect(told?.reckoning.found).toEqual([]);
  });
  it("show the readings in which a change shows: off without it, fitting with it", () => {
    const [one] = reckoned(logs).found;
    expect(one?.evidence.length).toBeGreaterThan(2);
    for (const e of one?.evidence ?? []) {
      expect(e.stationIds).toContain("s3");
      expect(Math.abs(e.readLpm - e.withLpm)).toBeLessThan(4 * e.sdLpm);
      if (e.night > "2026-07-01") expect(e.readLpm - e.withoutLpm).toBeGreaterThan(10);
    }
  });
  it("keep what was mended as ended, with what it cost", () => {
    const { found } = reckoned([...logs, night(3), night(4)]);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ subjectIds: ["s3"], until: expect.stringMatching(/^2026-07-04/) });
    expect(Object.keys(found[0]?.litresByNight ?? {})).toEqual(["2026-07-02", "2026-07-03"]);
  });
});

describe("findings from one morning to the next", () => {
  const finding = (more: Partial<Finding>): Finding => ({
    id: "x",
    kind: "step",
    subjectIds: ["s1"],
    since: "2026-07-10T20:00:00+02:00",
    until: null,
    changeLpm: 10,
    sdLpm: 1,
    z: 10,
    certain: true,
    litres: 100,
    named: "2026-07-10",
    litresByNight: { "2026-07-10": 100 },
    evidence: [],
    ...more,
  });
  it("are the same though they begin before what is looked at, and keep what they had cost", () => {
    const now = finding({ id: "y", since: "2026-07-20T20:00:00+02:00", litresByNight: { "2026-07-20": 50 } });
    expect(continued([finding({})], [now], "2026-07-20")).toEqual([
      {
        ...now,
        id: "x",
        since: "2026-07-10T20:00:00+02:00",
        named: "2026-07-10",
        litres: 150,
        litresByNight: { "2026-07-10": 100, "2026-07-20": 50 },
      },
    ]);
  });
  it("contradict figures where they are certain, go on and were not taken; what fits is confirmed", () => {
    const station = (stationId: string, nowLpm: number, sdLpm = 1) => ({
      stationId,
      expectedLpm: 100,
      nowLpm,
      sdLpm,
      seenAlone: 0,
      seenInSets: 3,
    });
    const stations = [station("s1", 110), station("s2", 101), station("s3", 101, 4), station("s4", 95)];
    const at = { night: "2026-07-10", workedAt: "2026-07-11T04:00:00Z" };
    const marks = (found: Finding[], taken: string[] = []) => nightMarks({ found, stations }, at, taken).contradicted;
    expect(nightMarks({ found: [finding({})], stations }, at, [])).toEqual({
      ...at,
      contradicted: ["s1"],
      confirmed: ["s2"],
    });
    expect(marks([finding({})], ["x"])).toEqual([]);
    for (const not of [finding({ certain: false }), finding({ until: "2026-07-12" }), finding({ kind: "sensor" })])
      expect(marks([not])).toEqual([]);
    expect(marks([finding({ subjectIds: ["s1", "s4"] })])).toEqual(["s1", "s4"]);
  });
  it("are another one the other way, at another place, or long after one that ended", () => {
    for (const now of [finding({ changeLpm: -10 }), finding({ subjectIds: ["s2"] }), finding({ kind: "sensor" })])
      expect(continued([finding({})], [now], "2026-07-01")).toEqual([now]);
    const ended = finding({ until: "2026-07-12T20:00:00+02:00" });
    const later = finding({ id: "y", since: "2026-07-19T20:00:00+02:00" });
    expect(continued([ended], [later], "2026-07-01")).toEqual([later]);
  });
  it("end where nothing of them is seen any more, and are dropped where what is looked at contradicts them", () => {
    expect(continued([finding({})], [], "2026-07-20")).toEqual([finding({ until: "2026-07-20" })]);
    expect(continued([finding({})], [], "2026-07-01")).toEqual([]);
    expect(continued([finding({ certain: false })], [], "2026-07-20")).toEqual([]);
  });
});

describe("on random sites (seeds that nothing was tuned on)", () => {
  it.each([
    ["outlet", 3],
    ["midNight", 3],
    ["sensor", 2],
    ["clog", 12],
    ["healthy", 12],
  ] as const)(
    "%s: what is wrong is named, and nothing else",
    (kind, nights) => {
      for (const seed of [2001, 2002, 2003]) {
        const tried = tryReckoning({
          kind,
          seed,
          nights,
          before: kind === "outlet" || kind === "midNight" ? 2 : 0,
          stations: 8 + (seed % 7),
        });
        expect(tried.wrongly, `seed ${seed}`).toEqual([]);
        if (kind !== "healthy") expect(tried, `seed ${seed}`).toMatchObject({ lastMorning: true });
      }
    },
    60_000,
  );
});

describe("when it began", () => {
  it("is told within its first night, and what went before costs nothing", () => {
    const broke = (clock: string) => ({ kind: "brokenOutlet", subjectId: "s3", at: clock, size: 45 });
    const of = (clock: string): Finding =>
      reckoned([night(0), night(1, [broke(clock)]), night(2, [broke("00:00:00")])]).found[0] as Finding;
    const [early, late] = [of("20:00:00"), of("20:47:55")];
    expect(early.subjectIds).toEqual(["s3"]);
    expect(late.subjectIds).toEqual(["s3"]);
    expect(late.since > early.since).toBe(true);
    expect(late.litresByNight["2026-07-02"] as number).toBeLessThan(early.litresByNight["2026-07-02"] as number);
  });
  it("is not before a repair that somebody noted: the nights before it were another station's", () => {
    const repaired = structuredClone(known);
    Object.assign(repaired.stations[3] as object, { repairedAt: "2026-07-03T10:00:00Z" });
    const broken = { kind: "brokenOutlet", subjectId: "s3", at: "00:00:00", size: 20 };
    const logs = [night(0, [broken]), night(1, [broken]), night(2), night(3)];
    expect(reckoned(logs, repaired).found).toEqual([]);
    expect(reckoned(logs).found).toHaveLength(1);
  });
});
