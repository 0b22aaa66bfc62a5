import type { FaultKind } from "@/core/bench/faults/kinds";
import { useHeightLeft } from "@/components/kit/use-height-left";
import type { BraidRun } from "@/components/pictures/braid/braid-data";

/** What can be dropped on a braid, and where it lands. */
export type Dropping = { armed: FaultKind | null; onDrop: (kind: FaultKind, on: BraidRun) => void };

/** What stands above and below the braid, and the least height it is drawn at, px. */
const [AROUND_PX, LEAST_PX] = [365, 460];

/** So that a night fits the picture, within what can be read. */
export function usePxPerMinute(data: { from: number; to: number } | null): number {
  const height = useHeightLeft(AROUND_PX, LEAST_PX);
  return data ? Math.max(0.8, Math.min(9, height / ((data.to - data.from) / 60))) : 1;
}
