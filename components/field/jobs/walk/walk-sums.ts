import type { WalkView } from "@/contracts/walks";

/** How a walk stands. */
export function sumOf({ looked }: WalkView): { looked: number; fine: number; problems: number; skipped: number } {
  const count = (state: string): number => looked.filter((l) => l.state === state).length;
  return { looked: looked.length, fine: count("fine"), problems: count("problem"), skipped: count("skipped") };
}

/** The first station that nobody looked at yet. */
export const firstLeft = ({ stationIds, looked }: WalkView): string | undefined =>
  stationIds.find((id) => !looked.some((l) => l.stationId === id));
