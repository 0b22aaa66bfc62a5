import { nth } from "../checked.ts";
import type { SetLimits } from "../judge/set-limits.ts";
import { CALM, judgeReading, type Persistence } from "../judge/persistence.ts";
import type { Policy } from "../site-file/schema.ts";

/**
 * Find and isolate (handbook#8-limits) as a pure state machine: (state, event, now) → state and effects as data. The controller that
 * drives it opens and closes what the effects name and feeds back one reading a second.
 */
export type SearchPlan = {
  kind: "high" | "low";
  /** Stations to test one at a time, in dispatch order, with the limits that hold for each alone. */
  tests: {
    stationId: string;
    limits: SetLimits /** What feeds it. After a low trip stations are compared with those of the same feed: they share its supply. @default one for all */;
    feed?: string;
  }[];
  holdOffS: number;
  persistenceS: number;
  /** The policy's school of persistence. @default unbroken */
  judge?: Policy["judge"];
  closeWaitS: number;
  /** With every station closed, flow over this means the mainline itself leaks, L/min. */
  restLimitLpm: number;
  /** Without static pressure a closed main shows nothing unless its pump runs: seconds it may, or null. */
  pumpTestS: number | null;
};

export type TestResult = {
  stationId: string;
  tripped: boolean;
  at: number;
  measuredLpm: number;
  expectedLpm: number;
  /** Ended because a pump had no flow. */
  dry?: true;
};

export type SearchState =
  | { phase: "shut"; plan: SearchPlan; until: number }
  | { phase: "mainline"; plan: SearchPlan; until: number }
  | { phase: "station"; plan: SearchPlan; index: number; openedAt: number; beyond: Persistence; results: TestResult[] }
  | { phase: "done"; plan: SearchPlan; results: TestResult[]; mainlineLeaks: boolean };

export type SearchEvent =
  | { type: "second"; readingLpm: number }
  /** A pump has run 60 s against no flow in this test: it ends at once, as low. */
  | { type: "pumpDry"; readingLpm: number };

export type SearchEffect =
  | { type: "shutMasterValves" }
  | { type: "openMasterValves"; pump: boolean }
  | { type: "pumpOff" }
  | { type: "openStation"; stationId: string }
  | { type: "closeStation"; stationId: string }
  /** At least one other station proved right, so this one is to be locked out. */
  | { type: "found"; result: TestResult }
  | { type: "mainlineLeaks"; measuredLpm: number }
  /** Tripped low, and no other of its feed was tested: the next one of that feed tells. */
  | { type: "unsure"; result: TestResult }
  | { type: "allTripped"; results: TestResult[] }
  /** In every test a pump had no flow: no station is to blame, whatever was searched for. */
  | { type: "allDry"; result: TestResult }
  | { type: "noneTripped" };

export type SearchStep = { state: SearchState; effects: SearchEffect[] };

/** Begins a search at `now`; the caller has closed the stations. After a low trip the master valve stays open. */
export function beginSearch(plan: SearchPlan, now: number): SearchStep {
  if (plan.kind === "low") return openNext(plan, 0, [], now);
  return { state: { phase: "shut", plan, until: now + plan.closeWaitS }, effects: [{ type: "shutMasterValves" }] };
}

/** The second that ended at `now` read `readingLpm`. */
export function advanceSearch(state: SearchState, event: SearchEvent, now: number): SearchStep {
  switch (state.phase) {
    case "shut": {
      if (now < state.until) return { state, effects: [] };
      const pump = state.plan.pumpTestS !== null;
      const wait = pump ? Math.min(state.plan.pumpTestS ?? 0, state.plan.holdOffS) : state.plan.holdOffS;
      return {
        state: { phase: "mainline", plan: state.plan, until: now + wait },
        effects: [{ type: "openMasterValves", pump }],
      };
    }
    case "mainline": {
      if (now < state.until) return { state, effects: [] };
      const off: SearchEffect[] = state.plan.pumpTestS === null ? [] : [{ type: "pumpOff" }];
      if (event.readingLpm > state.plan.restLimitLpm)
        return {
          state: { phase: "done", plan: state.plan, results: [], mainlineLeaks: true },
          effects: [...off, { type: "shutMasterValves" }, { type: "mainlineLeaks", measuredLpm: event.readingLpm }],
        };
      const next = openNext(state.plan, 0, [], now);
      return { state: next.state, effects: [...off, ...next.effects] };
    }
    case "station":
      return event.type === "pumpDry"
        ? endTest(state, { tripped: state.plan.kind === "low", readingLpm: event.readingLpm, dry: true }, now)
        : advanceTest(state, event.readingLpm, now);
    case "done":
      return { state, effects: [] };
  }
}

function advanceTest(state: Extract<SearchState, { phase: "station" }>, readingLpm: number, now: number): SearchStep {
  const { plan, index, openedAt } = state;
  const test = nth(plan.tests, index);
  const judgedFrom = openedAt + plan.holdOffS;
  if (now <= judgedFrom) return { state, effects: [] };
  const {
    state: beyond,
    trips,
    beyond: outside,
  } = judgeReading(
    state.beyond,
    plan.kind === "high" ? readingLpm - test.limits.highLpm : test.limits.lowLpm - readingLpm,
    plan,
  );
  const passes = !outside && now >= judgedFrom + plan.persistenceS;
  if (!trips && !passes) return { state: { ...state, beyond }, effects: [] };
  return endTest(state, { tripped: trips, readingLpm, dry: false }, now);
}

function endTest(
  state: Extract<SearchState, { phase: "station" }>,
  { tripped, readingLpm, dry }: { tripped: boolean; readingLpm: number; dry: boolean },
  now: number,
): SearchStep {
  const { plan, index } = state;
  const test = nth(plan.tests, index);
  const result: TestResult = {
    stationId: test.stationId,
    tripped,
    at: now,
    measuredLpm: readingLpm,
    expectedLpm: test.limits.expectedLpm,
    ...(dry ? { dry } : {}),
  };
  const results = [...state.results, result];
  const effects: SearchEffect[] = [
    { type: "closeStation", stationId: test.stationId },
    ...verdicts(plan, state.results, result),
  ];
  const next = openNext(plan, index + 1, results, now);
  return { state: next.state, effects: [...effects, ...next.effects] };
}

/** A trip counts once another station (after a low trip: of the same feed) has proved right, or it was the only one: if all trip, none of them is to blame. */
function verdicts(plan: SearchPlan, earlierOfAll: TestResult[], result: TestResult): SearchEffect[] {
  const group = groupOf(plan, result.stationId);
  const earlier = earlierOfAll.filter((r) => groupOf(plan, r.stationId) === group);
  const alone = plan.tests.filter((t) => groupOf(plan, t.stationId) === group).length === 1;
  if (alone && result.dry && plan.tests.length === 1) return [];
  if (alone)
    return result.tripped && (plan.tests.length === 1 || plan.kind === "high") ? [{ type: "found", result }] : [];
  const provedBefore = earlier.some((r) => !r.tripped);
  if (result.tripped) return provedBefore ? [{ type: "found", result }] : [];
  return provedBefore ? [] : earlier.filter((r) => r.tripped).map((r) => ({ type: "found" as const, result: r }));
}

/** What a station is compared with: after a low trip those of its feed, else all. */
function groupOf(plan: SearchPlan, stationId: string): string {
  return plan.kind === "high" ? "" : (plan.tests.find((t) => t.stationId === stationId)?.feed ?? "");
}

function openNext(plan: SearchPlan, index: number, results: TestResult[], now: number): SearchStep {
  const test = plan.tests[index];
  if (test)
    return {
      state: { phase: "station", plan, index, openedAt: now, beyond: CALM, results },
      effects: [{ type: "openStation", stationId: test.stationId }],
    };
  const tripped = results.filter((r) => r.tripped);
  const end: SearchEffect[] = [];
  const last = results.at(-1);
  if (last && results.every((r) => r.dry)) end.push({ type: "allDry", result: last });
  else if (tripped.length === 0) end.push({ type: "noneTripped" });
  else if (tripped.length === results.length && results.length > 1) end.push({ type: "allTripped", results });
  else if (plan.kind === "low")
    for (const group of new Set(results.map((r) => groupOf(plan, r.stationId)))) {
      const mine = results.filter((r) => groupOf(plan, r.stationId) === group);
      if (!mine.every((r) => r.tripped)) continue;
      if (mine.length > 1) end.push({ type: "allTripped", results: mine });
      else if (results.length > 1) end.push({ type: "unsure", result: nth(mine, 0) });
    }
  return { state: { phase: "done", plan, results, mainlineLeaks: false }, effects: end };
}
