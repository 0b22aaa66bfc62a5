import type { EpochS } from "../dates/wall-time.ts";
import type { Entry } from "../dispatch/queue.ts";
import type { SearchState } from "../isolate/search.ts";
import { blankJudge, type JudgeState } from "../judge/judge.ts";
import { type JudgedSystem, judgedSystems } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";

/** The set that runs behind a judged point, worked out anew only when a valve has turned. */
export type RunningSet = { entries: Entry[]; stations: number[]; key: string; asOf: number };
export type Suspect = { entry: Entry; measuredLpm: number; expectedLpm: number };

/** What the controller keeps for one connected system through a night. */
export type SystemState = JudgedSystem & {
  /** Hand watering allowed at an instant, L/min; and the places of the stations that run now. Asked every second, made once. */
  allowanceLpm: (at: EpochS) => number;
  running: () => number[];
  judge: JudgeState;
  /** By judged point. */
  sets: RunningSet[];
  search: {
    state: SearchState;
    entries: Map<string, Entry>;
    testing: { entry: Entry; since: EpochS } | null;
    valves: "shut" | "open";
    pump: boolean;
    /** Number of the judged point at which it tripped. */
    point: number;
    /** The pump that last had no flow in a test. */
    dry: { poc: number; deviceId: string } | null;
  } | null;
  /** A set that tripped, shut until `opensAt`, then judged once more until `judgedUntil` (known once its valves have turned); all else stays shut. */
  retest: {
    set: { entry: Entry; cycle: number }[];
    opensAt: EpochS;
    opened: boolean;
    judgedUntil: EpochS | null;
  } | null;
  /** Stations that tripped low alone, by what feeds them: the next of the same feed tells. */
  suspects: Map<string, Suspect>;
  searched: Set<string>;
  retested: Set<string>;
  unjudged: boolean;
  stopped: boolean;
  highInARow: number;
};

/** The systems of a night that begins, with what tells about each. */
export function systemStates(
  w: Waterworks,
  asks: (system: JudgedSystem) => Pick<SystemState, "allowanceLpm" | "running">,
): SystemState[] {
  return judgedSystems(w).map((system) => ({
    ...system,
    ...asks(system),
    judge: blankJudge(system),
    sets: system.points.map(() => ({ entries: [], stations: [], key: "", asOf: -1 })),
    search: null,
    retest: null,
    suspects: new Map(),
    searched: new Set<string>(),
    retested: new Set<string>(),
    unjudged: false,
    stopped: false,
    highInARow: 0,
  }));
}
