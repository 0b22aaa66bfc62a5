import type { FaultKind } from "@/core/bench/faults/kinds";
import type { BraidRun } from "@/components/pictures/braid/braid-data";

/** What can be dropped on a braid, and where it lands. */
export type Dropping = { armed: FaultKind | null; onDrop: (kind: FaultKind, on: BraidRun) => void };

/** What stands above and below the braids of the bench, and the least height they are drawn at. */
export const BENCH_ROOM = { aroundPx: 365, leastPx: 460 };
