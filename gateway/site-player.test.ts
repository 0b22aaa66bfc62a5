import { describe, expect, it } from "vitest";
import { setUpBy } from "./at-work.ts";
import { type Said, SitePlayer } from "./site-player.ts";
import { smallSite } from "../testing/small-site.ts";
import { LearnThere } from "../core/at-controller/learn-there.ts";
import { beginBenchDay } from "../core/bench/bench-day.ts";
import { instantOf, localIso } from "../core/dates/wall-time.ts";
import type { Order } from "../core/field/orders.ts";
import { learn } from "../core/learn/learn.ts";
import { settingsOf } from "../core/settings/settings-of.ts";
import type { Program, SiteFile } from "../core/site-file/schema.ts";

const DATE = "2026-07-14";
const site = (change: (s: SiteFile) => void = () => {}): SiteFile => smallSite(change);
const at = (clock: string): number => instantOf("Europe/Vienna", DATE, clock);
const on = (clock: string, of = site(), faults: unknown[] = []): SitePlayer => new SitePlayer(of, at(clock), faults, 3);
let orders = 0;
const order = (player: SitePlayer, what: Order): string | null =>
  player.order({ id: `00000000-0000-4000-8000-${String(++orders).padStart(12, "0")}`, by: "Maren", what });
const live = (player: SitePlayer, clock: string, date = DATE): Said[] => {
  const said: Said[] = [];
  while (player.now < instantOf("Europe/Vienna", date, clock)) said.push(...player.second());
  return said;
};
const events = (said: Said[], ...types: string[]): string[] =>
  said.flatMap((s) =>
    s.kind === "event" && types.includes(s.type)
      ? [`${localIso("Europe/Vienna", Math.round(Date.parse(s.at) / 1000)).slice(11, 19)} ${s.type} ${s.subject}`]
      : [],
  );

describe("orders at the controllers", () => {
  it("single stations run for their minutes, under the ceiling, and end by themselves", () => {
    const player = on("12:00");
    expect(
      order(player, {
        kind: "run",
        runs: [
          { stationId: "s1", minutes: 2 },
          { stationId: "s2", minutes: 1 },
        ],
      }),
    ).toBeNull();
    // 100 and 100 on a main of 150: one after the other.
    const said = live(player, "12:10");
    expect(events(said, "open", "close")).toEqual([
      "12:00:01 open s1",
      "12:02:01 close s1",
      "12:02:01 open s2",
      "12:03:01 close s2",
    ]);
    expect(said.some((s) => s.kind === "event" && s.type === "ordered" && s.reason.includes("Maren"))).toBe(true);
  });
  it("are told once, though it is begun again after any word", () => {
    const player = on("12:00");
    order(player, { kind: "stop" });
    const first = player.second();
    const last = Date.parse(first.at(-1)?.at ?? "") / 1000;
    const again = new SitePlayer(site(), last, [], 3, DATE, structuredClone(player.work));
    const rest: Said[] = [];
    for (let i = 0; i < 120; i++) rest.push(...again.second());
    expect(events([...first, ...rest], "ordered")).toHaveLength(1);
    // Ordered and kept, but not told yet when it ended: told when it goes on.
    order(again, { kind: "stop" });
    const untold = new SitePlayer(site(), again.now, [], 3, DATE, structuredClone(again.work));
    expect(events(untold.second(), "ordered")).toHaveLength(1);
  });
  it("skip goes on to the next, stop ends all; what the schedule gives later still comes", () => {
    const player = on("22:05");
    expect(player.openStations).toEqual(["s1", "s3"]);
    expect(order(player, { kind: "skip" })).toBeNull();
    live(player, "22:06");
    expect(player.openStations).toEqual(["s2"]);
    expect(order(player, { kind: "stop" })).toBeNull();
    const said = live(player, "23:00");
    expect(events(said, "open")).toEqual([]);
    expect(order(player, { kind: "skip" })).toBe("nothing runs");
    expect(events(live(player, "22:30", "2026-07-21"), "open").length).toBeGreaterThan(0);
  }, 60_000);
  it("a program runs from a station on with other minutes; not while its window is closed", () => {
    const player = on("12:00");
    expect(order(player, { kind: "program", programId: "p", fromStationId: "s2", minutes: 3 })).toBeNull();
    expect(events(live(player, "12:10"), "open").map((e) => e.slice(9))).toEqual(["open s2", "open s3"]);
    const closed = on(
      "12:00",
      site((s) => {
        (s.programs[0] as Program).windows = [{ from: "21:00", to: "05:00" }];
      }),
    );
    expect(order(closed, { kind: "program", programId: "p" })).toBe("its water window is closed now");
    expect(order(closed, { kind: "walk", controllerId: "ctl", minutes: 1 })).toBeNull();
    expect(events(live(closed, "12:10"), "open").map((e) => e.slice(9))).toEqual(["open s1", "open s2", "open s3"]);
  });
  it("off holds for its days, refuses runs meanwhile, and is taken back", () => {
    const player = on("22:05");
    expect(order(player, { kind: "off", until: "2026-07-22" })).toBeNull();
    live(player, "22:06");
    expect(player.openStations).toEqual([]);
    expect(order(player, { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] })).toBe("it is off; resume first");
    expect(player.work.held[0]?.settings.site.holdUntil).toBe("2026-07-22");
    expect(order(player, { kind: "resume" })).toBeNull();
    expect(order(player, { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] })).toBeNull();
    expect(player.work.held[0]?.settings).toEqual(settingsOf(site(), "ctl"));
  });
  it("a master valve opens for hand watering and shuts again", () => {
    const player = on("12:00");
    expect(order(player, { kind: "hand", pocId: "poc", minutes: 5, flowLpm: 30 })).toBeNull();
    expect(events(live(player, "12:10"), "masterValveOpen", "masterValveShut").map((e) => e.slice(0, 5))).toEqual([
      "12:01",
      "12:06",
    ]);
    expect(order(player, { kind: "hand", pocId: "nowhere", minutes: 5, flowLpm: 30 })).not.toBeNull();
  });
  it("a station that is locked out is refused, cleared by an order, and runs again", () => {
    const player = on("22:00", site(), [{ at: "+120", kind: "brokenLateral", subjectId: "s1", until: "+1200" }]);
    live(player, "22:40");
    expect(player.lockouts).toEqual(["s1"]);
    expect(order(player, { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] })).toBe("S1 is locked out");
    expect(order(player, { kind: "clear", ids: ["s1"] })).toBeNull();
    expect(player.lockouts).toEqual([]);
    expect(order(player, { kind: "run", runs: [{ stationId: "s1", minutes: 1 }] })).toBeNull();
    expect(events(live(player, "22:42"), "cleared", "open").map((e) => e.slice(9))).toEqual(["cleared s1", "open s1"]);
  });
  it("a valve check tells milliamps, none of a valve that does not open", () => {
    const player = on("12:00", site(), [{ at: "00:00:00", kind: "stuckClosed", subjectId: "s2" }]);
    const milliamps = player.check("ctl");
    expect(milliamps["s2"]).toBe(0);
    expect(milliamps["s1"]).toBeGreaterThan(200);
  });
});

describe("learning at the controller", () => {
  const stationIds = ["s1", "s2", "s3"];
  it("teaches the same figures as the bench, by the same test", () => {
    const player = on("12:00");
    expect(order(player, { kind: "learn", stationIds })).toBeNull();
    expect(order(player, { kind: "learn", stationIds })).toBe("it learns already, or is to");
    const said = live(player, "13:00");
    const learned = said.flatMap((s) => (s.kind === "event" && s.learned ? [[s.subject, s.learned] as const] : []));
    expect(learned.map(([id, l]) => [id, l.verdict])).toEqual(stationIds.map((id) => [id, "accepted"]));
    const bench = learn(site(), { date: DATE, from: "12:00", seed: 3 });
    if (!bench.ok) throw new Error("the bench refused");
    for (const [id, l] of learned)
      expect(l.meanLpm).toBeCloseTo(bench.result.results.find((r) => r.stationId === id)?.meanLpm ?? 0, 6);
    expect(said.filter((s) => s.kind === "event" && s.type === "learnEnds")).toHaveLength(1);
  });
  it("begins at its hour, goes on after a restart in the middle as if nothing had been, and the schedule waits for it", () => {
    const whole = on("21:50");
    const from = new Date(at("21:57") * 1000).toISOString();
    expect(order(whole, { kind: "learn", stationIds, from })).toBeNull();
    const all = live(whole, "22:40");
    expect(events(all, "learnBegins")[0]).toMatch(/^21:57/);

    const broken = on("21:50");
    order(broken, { kind: "learn", stationIds, from });
    const part = live(broken, "22:01");
    const again = new SitePlayer(site(), broken.now, [], 3, DATE, JSON.parse(JSON.stringify(broken.work)));
    const rest = live(again, "22:40");
    const told = (said: Said[]) =>
      said.flatMap((s) => (s.kind === "event" && s.learned ? [[s.subject, s.learned]] : []));
    expect([...told(part), ...told(rest)]).toEqual(told(all));
    const ends = events(all, "learnEnds")[0]?.slice(0, 8) ?? "";
    expect(events(all, "open").every((e) => e.slice(0, 8) >= ends)).toBe(true);
    expect(events(all, "open").length).toBeGreaterThan(0);
  });
  it("has its end in itself, and tells which stations the hour left no time for", () => {
    const begun = beginBenchDay(site(), { date: DATE, seed: 3 });
    if (!begun.ok) throw new Error(begun.problem.message);
    const learning = new LearnThere(begun.day, "o", { kind: "learn", stationIds }, at("12:00"));
    Object.assign(learning, { endsBy: at("12:00") + 5 });
    const lived = Array.from({ length: 8 }, () => learning.second().lived !== null);
    expect(lived).toEqual([true, true, true, true, true, false, false, false]);

    const player = on("12:00");
    order(player, { kind: "learn", stationIds, to: new Date(at("12:09") * 1000).toISOString() });
    const said = live(player, "13:00");
    expect(events(said, "learned").length).toBeGreaterThan(0);
    expect(events(said, "learned").length + events(said, "learnLeaves").length).toBe(3);
    expect(events(said, "learnLeaves").length).toBeGreaterThan(0);
  });
  it("stops when someone says stop, and over the burst limit by itself", () => {
    const player = on("12:00");
    order(player, { kind: "learn", stationIds });
    live(player, "12:03");
    expect(player.learns).toBe(true);
    expect(order(player, { kind: "stop" })).toBeNull();
    expect(events(live(player, "12:05"), "learnEnds")).toHaveLength(1);
    expect(player.learns).toBe(false);

    const burst = on(
      "12:00",
      site((s) => {
        Object.assign(s.pocs[0] as object, { burstLimitLpm: 300, burstPersistenceS: 10 });
      }),
      [{ at: "12:03:00", kind: "mainlineBreak", subjectId: "main", size: 900 }],
    );
    order(burst, { kind: "learn", stationIds });
    const said = live(burst, "12:20");
    expect(events(said, "learnEnds").length).toBe(1);
    expect(burst.lockouts).toContain("poc");
  });
});

describe("what controllers hold is theirs", () => {
  it("another site in the ground does not change their settings; a start that would lie in the past is not run", () => {
    const player = on("22:30");
    const held = player.work.held;
    const later = held.map((h) => ({
      ...h,
      settings: { ...h.settings, programs: h.settings.programs.map((p) => ({ ...p, starts: ["22:10", "23:00"] })) },
    }));
    player.change({ held: later });
    const said = live(player, "23:30");
    expect(events(said, "open").every((e) => e >= "23:00")).toBe(true);
    player.change({ ground: site((s) => Object.assign(s.programs[0] as object, { starts: ["02:00"] })) });
    expect(player.work.held).toEqual(later);
  });
  it("a clock that is 40 minutes ahead starts 40 minutes early, until it is set right", () => {
    const work = setUpBy(site());
    const ahead = { ...work, held: work.held.map((h) => ({ ...h, clockOffS: 2400 })) };
    const player = new SitePlayer(site(), at("21:00"), [], 3, DATE, ahead);
    expect(events(live(player, "21:25"), "open")[0]).toMatch(/^21:20/);
    expect(order(player, { kind: "clock" })).toBeNull();
    expect(player.work.held[0]?.clockOffS).toBe(0);
  });
});
