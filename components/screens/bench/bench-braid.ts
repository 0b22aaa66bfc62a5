import type { FaultKind } from "@/core/bench/faults/kinds";
import type { BraidRun } from "@/components/pictures/braid/braid-data";

/** What can be dropped on a braid, and where it lands. */
export type Dropping = { armed: FaultKind | null; onDrop: (kind: FaultKind, on: BraidRun) => void };

const USUAL_PX = 500;
/** So that a night fits the picture, within what can be read. */
export const pxPerMinute = (data: { from: number; to: number }): number =>
  Math.max(0.8, Math.min(9, USUAL_PX / ((data.to - data.from) / 60)));
