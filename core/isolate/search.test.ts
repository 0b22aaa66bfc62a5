import { describe, expect, it } from "vitest";
import { advanceSearch, beginSearch, type SearchEffect, type SearchPlan, type SearchState } from "./search.ts";

const limits = { expectedLpm: 100, highLpm: 120, lowLpm: 75, judged: true };
const plan = (kind: "high" | "low", ids: string[], extra: Partial<SearchPlan> = {}): SearchPlan => ({
  kind,
  tests: ids.map((stationId) => ({ stationId, limits })),
  holdOffS: 10,
  persistenceS: 5,
  closeWaitS: 3,
  restLimitLpm: 20,
  pumpTestS: null,
  ...extra,
});

/** Feeds one reading a second, chosen by what is open, and lists the effects with their instants. */
function play(p: SearchPlan, reading: (open: string | null, now: number) => number): [number, SearchEffect][] {
  const log: [number, SearchEffect][] = [];
  let open: string | null = null;
  const take = (now: number, effects: SearchEffect[]): void => {
    for (const e of effects) {
      log.push([now, e]);
      if (e.type === "openStation") open = e.stationId;
      if (e.type === "closeStation") open = null;
    }
  };
  const begun = beginSearch(p, 0);
  take(0, begun.effects);
  let state: SearchState = begun.state;
  for (let now = 1; now < 500 && state.phase !== "done"; now++) {
    const step = advanceSearch(state, { type: "second", readingLpm: reading(open, now) }, now);
    state = step.state;
    take(now, step.effects);
  }
  return log;
}
const types = (log: [number, SearchEffect][]) =>
  log.map(
    ([at, e]) =>
      `${at} ${e.type}${"stationId" in e ? ` ${e.stationId}` : ""}${e.type === "found" ? ` ${e.result.stationId}` : ""}`,
  );

describe("a pump without flow in a test", () => {
  const opened = (effects: SearchEffect[]): string | undefined =>
    effects.flatMap((e) => (e.type === "openStation" ? [e.stationId] : [])).at(-1);
  const verdicts = (effects: SearchEffect[]): string[] =>
    effects.flatMap((e) => {
      if ("result" in e) return [`${e.type} ${e.result.stationId}`];
      return e.type === "noneTripped" || e.type === "allTripped" ? [e.type] : [];
    });
  /** Every test ends as dry after two seconds, but those of `flows`. */
  const dry = (kind: "high" | "low", ids: string[], flows: Record<string, number> = {}): string[] => {
    const log: string[] = [];
    let step = beginSearch(plan(kind, ids), 0);
    let [open, since] = ["", 0];
    for (let now = 0; now < 500; now++) {
      const next = opened(step.effects);
      if (next !== undefined) [open, since] = [next, now];
      log.push(...verdicts(step.effects));
      if (step.state.phase === "done") break;
      const pumpDry = step.state.phase === "station" && flows[open] === undefined && now - since === 2;
      step = advanceSearch(step.state, { type: pumpDry ? "pumpDry" : "second", readingLpm: flows[open] ?? 0 }, now + 1);
    }
    return log;
  };
  it("ends that test as low, and the search goes on", () => {
    expect(dry("low", ["a", "b", "c"], { b: 100, c: 100 })).toEqual(["found a"]);
    expect(dry("low", ["a", "b"], { a: 100 })).toEqual(["found b"]);
  });
  it("in every test is no station's fault, were it only one", () => {
    expect(dry("low", ["a", "b"])).toEqual(["allDry b"]);
    expect(dry("low", ["a"])).toEqual(["allDry a"]);
    expect(dry("high", ["a", "b"])).toEqual(["allDry b"]);
  });
  it("is not high: after a high trip the others decide", () => {
    expect(dry("high", ["a", "b"], { b: 160 })).toEqual(["found b"]);
    expect(dry("high", ["a", "b"], { b: 100 })).toEqual(["noneTripped"]);
  });
});

describe("find and isolate", () => {
  it("shuts, waits, tests the main, then each station; all are tested even after one is found", () => {
    expect(types(play(plan("high", ["a", "b"]), (open) => ({ a: 160, b: 100 })[open ?? ""] ?? 0))).toEqual([
      "0 shutMasterValves",
      "3 openMasterValves",
      "13 openStation a",
      "28 closeStation a",
      "28 openStation b",
      "43 closeStation b",
      "43 found a",
    ]);
  });
  it("ends at once when the main leaks with everything closed", () => {
    expect(types(play(plan("high", ["a"]), () => 90))).toEqual([
      "0 shutMasterValves",
      "3 openMasterValves",
      "13 shutMasterValves",
      "13 mainlineLeaks",
    ]);
  });
  it("after a low trip the master valve stays, and if all are low none is to blame", () => {
    expect(types(play(plan("low", ["a", "b"]), () => 10))).toEqual([
      "0 openStation a",
      "15 closeStation a",
      "15 openStation b",
      "30 closeStation b",
      "30 allTripped",
    ]);
  });
  it("finds nothing when nothing trips again", () => {
    expect(types(play(plan("high", ["a", "b"]), (open) => (open ? 100 : 0))).at(-1)).toBe("43 noneTripped");
  });
  it("a reading still beyond at the end is waited for until it trips or falls back", () => {
    const log = types(
      play(plan("high", ["a", "b"]), (open, now) => (open ? 100 : 0) + (open === "a" && now > 25 ? 60 : 0)),
    );
    expect(log).toContain("30 closeStation a");
    expect(log.at(-1)).toContain("found a");
  });
  it("a single station that trips is found", () => {
    expect(types(play(plan("high", ["a"]), (open) => (open ? 160 : 0))).at(-1)).toBe("28 found a");
  });
  it("without static pressure the pump may run for the main's test, no longer than it is allowed", () => {
    const log = play(plan("high", ["a"], { holdOffS: 60, pumpTestS: 30 }), () => 0);
    expect(log.map(([at, e]) => [at, e.type]).slice(0, 3)).toEqual([
      [0, "shutMasterValves"],
      [3, "openMasterValves"],
      [33, "pumpOff"],
    ]);
  });
});
