import { describe, expect, it } from "vitest";
import { simulate } from "../core/bench/simulate.ts";
import { instantOf } from "../core/dates/wall-time.ts";
import type { Alarm } from "../core/judge/alarm.ts";
import { LiveJudge, type LiveState } from "../core/field/live-judge.ts";
import type { ReadingMessage } from "../core/field/messages.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { smallSite } from "../testing/small-site.ts";
import { type Said, SitePlayer } from "./site-player.ts";

const DATE = "2026-07-14";
const night = (site: SiteFile, faults: unknown[], hours = 4): Said[] => {
  const begin = instantOf(site.site.timeZone, DATE, "21:30");
  const player = new SitePlayer(site, begin, faults, 3);
  const said: Said[] = [];
  while (player.now < begin + hours * 3600) said.push(...player.second());
  return said;
};
/** Feeds what was said to the judge; the state goes through JSON at every reading, as it does between restarts. */
const judged = (site: SiteFile, said: Said[], isolates: boolean, through = false): Alarm[] => {
  const judge = new LiveJudge(site);
  let state: LiveState = judge.blank();
  return said.flatMap((m, i) => {
    if (through) state = JSON.parse(JSON.stringify(state));
    const numbered = { stream: "s", seq: i + 1, ...m };
    if (numbered.kind === "reading") return judge.reading(state, numbered as ReadingMessage, isolates);
    return isolates ? judge.event(state, numbered) : [];
  });
};
const brief = (a: { at: number | string; kind: string; subjectId: string }): string =>
  `${typeof a.at === "number" ? a.at : Date.parse(a.at) / 1000} ${a.kind} ${a.subjectId}`;
const onlyTold = smallSite((s) => {
  s.policy.highResponse = "notify";
  s.policy.lowResponse = "notify";
  (s.pocs[0] as { burstLimitLpm?: number; burstResponse?: string }).burstLimitLpm = 420;
  (s.pocs[0] as { burstResponse?: string }).burstResponse = "notify";
});

describe("a live site is judged as the bench judges it", () => {
  const faults: [string, unknown[]][] = [
    ["nothing wrong", []],
    ["a lateral", [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }]],
    ["a valve that does not open", [{ at: "+0", kind: "stuckClosed", subjectId: "s2" }]],
    ["a burst", [{ at: "+200", until: "+260", kind: "mainlineBreak", subjectId: "main", size: 700 }]],
    ["a supply that goes", [{ at: "+300", kind: "supplyClosed", subjectId: "src" }]],
    [
      "a master valve that does not close, and a leak",
      [
        { at: "+0", kind: "masterValveStuckOpen", subjectId: "mv" },
        { at: "+0", kind: "mainlineBreak", subjectId: "main", size: 25 },
      ],
    ],
    ["a constant", [{ at: "+0", kind: "wrongK", subjectId: "fs", size: 1.5 }]],
  ];
  it.each(faults)("%s", (_, list) => {
    const bench = simulate(onlyTold, { date: DATE, faults: list, seed: 3 });
    if (!bench.ok) throw new Error("the bench refused");
    const end = instantOf(onlyTold.site.timeZone, DATE, "23:59");
    const live = judged(onlyTold, night(onlyTold, list), false).filter((a) => a.at <= end);
    expect(live.map(brief)).toEqual(bench.result.alarms.map(brief).filter((b) => Number(b.split(" ")[0]) <= end));
    expect(live.every((a) => a.note === "onlyTold")).toBe(true);
  });
  it("remembers across a restart between any two readings", () => {
    const said = night(onlyTold, [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }], 1);
    expect(judged(onlyTold, said, false, true)).toEqual(judged(onlyTold, said, false));
  });
});

describe("a controller that finds and isolates", () => {
  const site = smallSite();
  const said = night(site, [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }], 2);
  it("tells for itself: one alarm, its own", () => {
    expect(judged(site, said, true).map((a) => [a.kind, a.subjectId, a.note])).toEqual([
      ["stationHigh", "s1", undefined],
    ]);
  });
  it("that says nothing of a trip is told on after two minutes", () => {
    const [first] = judged(
      site,
      said.filter((m) => m.kind === "reading"),
      true,
    );
    expect([first?.kind, first?.note]).toEqual(["stationHigh", "controllerSilent"]);
  });
  it("a search whose end was lost in a hole does not leave the site unjudged", () => {
    const judge = new LiveJudge(onlyTold);
    const state = judge.blank();
    const all = night(onlyTold, [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }], 1);
    const begins = {
      at: (all[0] as Said).at,
      kind: "event" as const,
      type: "searchBegins",
      subject: "main",
      reason: "",
      stream: "s",
      seq: 1,
    };
    judge.event(state, begins);
    const silent = all.flatMap((m, i) =>
      m.kind === "reading"
        ? judge.reading(structuredClone(state), { stream: "s", seq: i + 2, ...m } as ReadingMessage, false)
        : [],
    );
    judge.hole(state);
    const told = all.flatMap((m, i) =>
      m.kind === "reading" ? judge.reading(state, { stream: "s", seq: i + 2, ...m } as ReadingMessage, false) : [],
    );
    expect(silent).toEqual([]);
    expect(told.map((a) => a.kind)).toContain("stationHigh");
  });
  it("a hole in the stream starts every count afresh", () => {
    const judge = new LiveJudge(onlyTold);
    const state = judge.blank();
    const high = night(onlyTold, [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }], 1).filter(
      (m): m is Said & { kind: "reading" } => m.kind === "reading",
    );
    const trip = high.findIndex(
      (m, i) => judge.reading(state, { stream: "s", seq: i + 1, ...m } as ReadingMessage, false).length > 0,
    );
    const again = judge.blank();
    const told = high.slice(0, trip + 30).flatMap((m, i) => {
      if (i === trip - 5) judge.hole(again);
      return judge.reading(again, { stream: "s", seq: i + 1, ...m } as ReadingMessage, false);
    });
    expect(told).toEqual([]);
  });
});

describe("the site that is played", () => {
  it("is the same whenever it is taken up, and keeps its lockouts into the next day", () => {
    const site = smallSite();
    const at = instantOf(site.site.timeZone, DATE, "22:10");
    const whole = night(site, [], 1).filter((m) => Date.parse(m.at) / 1000 > at);
    const player = new SitePlayer(site, at, [], 3);
    const part: Said[] = [];
    while (player.now < instantOf(site.site.timeZone, DATE, "22:30")) part.push(...player.second());
    const open = (m: Said[]): string[] =>
      m.flatMap((x) => (x.kind === "event" && x.type === "open" ? [`${x.at} ${x.subject}`] : []));
    expect(open(part)).toEqual(open(whole));
    const weekly = smallSite((s) => {
      (s.programs[0] as { days: unknown }).days = { type: "weekdays", days: ["tue", "wed"] };
    });
    const days = new SitePlayer(
      weekly,
      instantOf(weekly.site.timeZone, DATE, "21:55"),
      [{ at: "+60", kind: "brokenLateral", subjectId: "s1" }],
      3,
    );
    const nextDay: Said[] = [];
    while (days.now < instantOf(weekly.site.timeZone, "2026-07-15", "23:30")) nextDay.push(...days.second());
    const opened = nextDay.flatMap((x) =>
      x.kind === "event" && x.type === "open" && x.at > "2026-07-15T12" ? [x.subject] : [],
    );
    expect(nextDay.some((x) => x.kind === "event" && x.type === "lockedOut" && x.subject === "s1")).toBe(true);
    expect(opened).toContain("s2");
    expect(opened).not.toContain("s1");
  }, 60_000);
});

describe("what a live alarm costs", () => {
  it.each([true, false])(
    "is what its departure let away, told or found by the controller (isolates: %s)",
    (isolates) => {
      const site = isolates ? smallSite() : onlyTold;
      const judge = new LiveJudge(site);
      const state: LiveState = judge.blank();
      const costs = new Map<string, ReturnType<LiveJudge["departures"]>[number]>();
      const alarms: Alarm[] = [];
      night(site, [{ at: "+120", kind: "brokenLateral", subjectId: "s1" }], 2).forEach((m, i) => {
        const numbered = { stream: "s", seq: i + 1, ...m };
        if (numbered.kind === "reading") alarms.push(...judge.reading(state, numbered as ReadingMessage, isolates));
        else if (isolates) alarms.push(...judge.event(state, numbered));
        for (const d of judge.departures(state)) costs.set(`${d.alarm.at} ${d.alarm.subjectId}`, d);
      });
      const first = alarms[0] as Alarm;
      const cost = costs.get(`${first.at} ${first.subjectId}`);
      expect(cost).toBeDefined();
      // The lateral runs some 60 L/min over for the persistence at the least, and no longer than the station runs.
      expect(cost?.from).toBeLessThan(first.at);
      expect(cost?.litres).toBeGreaterThan(60);
      expect(cost?.litres).toBeLessThan(1500);
      expect((cost?.litres ?? 0) / ((cost?.seconds ?? 1) / 60)).toBeGreaterThan(30);
    },
  );
  it("is borne by an alarm that the controller tells before it shows here, and by none that nothing follows", () => {
    const judge = new LiveJudge(smallSite());
    const state = judge.blank();
    const at = (s: number): string => new Date((1_784_000_000 + s) * 1000).toISOString();
    const reading = (s: number, lpm: number): ReadingMessage =>
      ({
        stream: "s",
        seq: s,
        at: at(s),
        kind: "reading",
        flow: { fs: lpm },
        pressure: {},
        open: [],
        valves: ["mv"],
        pumps: [],
      }) as ReadingMessage;
    judge.reading(state, reading(1, 0), true);
    const alarm = { kind: "offSchedule", measuredLpm: 90, expectedLpm: 0 };
    judge.event(state, {
      stream: "s",
      seq: 2,
      at: at(2),
      kind: "event",
      type: "alarm",
      subject: "poc",
      reason: "",
      alarm,
    });
    expect(judge.departures(state)).toEqual([]);
    for (let s = 3; s <= 32; s++) judge.reading(state, reading(s, 90), true);
    expect(judge.departures(state)).toMatchObject([{ seconds: 31, alarm: { subjectId: "poc" } }]);
    expect(judge.departures(state)[0]?.litres).toBeCloseTo(46.5, 6);
  });
  it("a night without a fault has none", () => {
    const judge = new LiveJudge(onlyTold);
    const state = judge.blank();
    for (const [i, m] of night(onlyTold, []).entries())
      if (m.kind === "reading") judge.reading(state, { stream: "s", seq: i + 1, ...m } as ReadingMessage, false);
    expect(judge.departures(state)).toEqual([]);
  });
});
