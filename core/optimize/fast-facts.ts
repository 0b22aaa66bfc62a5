import type { Interval } from "../calendar/windows.ts";
import type { Entry } from "../dispatch/queue.ts";

/** What a search may change of each program, by place in the file. `order` holds places in the program's list of entries. */
export type Tuning = { order: number[]; priority: number; atOnce: number }[];

/** All that one station has to water in one program: seconds of its cycles and of the soaks between them. */
export type Work = {
  entry: Entry;
  station: number;
  main: number;
  controller: number;
  /** The dispatch group of its controller, and the connected system and the sources that it draws on. */
  group: number;
  system: number;
  sources: readonly number[];
  /** The cuts that its water passes. */
  cuts: Int32Array;
  /** L/min; 0 where no figure is known, and then it runs alone on its system. */
  flow: number;
  unknown: boolean;
  /** Pumps with a minimum flow that its station starts, by place in `minimums`. */
  minimums: readonly number[];
  /** Inputs that do not hold it back. */
  ignores: readonly string[];
  /** How often its program starts in the night. */
  times: number;
  cycles: number[];
  soakS: number;
  /** Seconds that its later cycles and soaks still need after each cycle. */
  afterS: number[];
};

/** Pumps that must carry a minimum. */
export type Minimums = {
  lpm: readonly number[];
  /** What each of them carries with these running, in a period. */
  carried: (period: number, running: readonly Work[]) => ArrayLike<number>;
};

/** What of a night no tuning changes, on plain arrays by place in the file; instants in epoch seconds, flows in L/min. */
export type NightFacts = {
  /** By program: what each of its starts waters. */
  work: Work[][];
  /** In order of time, then of programs. What is left at the deadline is cut. */
  starts: { program: number; at: number; deadline: number }[];
  open: (Interval[] | null)[];
  /** By program: when inputs hold it back. */
  pauses: { inputId: string; intervals: Interval[] }[][];
  delay: number[];
  strict: boolean[];
  /** Stations at once, by controller and on the whole. */
  limit: number[];
  siteLimit: number;
  stations: number;
  systems: number;
  groups: number;
  /** By mainline: the pump it draws on, −1 for none. */
  pumpOfMain: Int32Array;
  pumps: number;
  /** From each instant on, by cut: what may pass it. The first is the first start. */
  periods: { from: number; cap: Float64Array }[];
  /** By cut: the most that may pass it at any time, and L/min × s that must in the whole night. */
  cutMost: Float64Array;
  cutWork: Float64Array;
  minimums: Minimums | null;
  /** Seconds that no tuning can water, and the first start. */
  shortS: number;
  first: number;
};
