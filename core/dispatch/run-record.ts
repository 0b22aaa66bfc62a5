import type { EpochS } from "../dates/wall-time.ts";
import type { BlockCode, Entry } from "./queue.ts";

export type RunRecord = {
  entry: Entry;
  station: number;
  program: number;
  start: EpochS;
  end: EpochS;
  /** From 1. */
  cycle: number;
  flowLpm: number | null;
  /** What it waited for just before it opened, and how long. */
  waited: { code: BlockCode; elementId?: string; seconds: number } | null;
  /** Why it closed. */
  ended:
    | "complete"
    | "window"
    | "input"
    | "sourceHours"
    | "pumpMinimum"
    | "deadline"
    | "cut"
    | "limit"
    | "skipped"
    | "stopped";
};
