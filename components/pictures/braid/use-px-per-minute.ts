import { useHeightLeft } from "@/components/kit/use-height-left";

/** The least and the most that can be read, px per minute. */
const [LEAST, MOST] = [0.8, 9];

/** So that a night (seconds `from` and `to`) fits the screen: `aroundPx` stands above and below it, and it is never drawn lower than `leastPx`. */
export function usePxPerMinute(
  data: { from: number; to: number } | null,
  { aroundPx, leastPx }: { aroundPx: number; leastPx: number },
): number {
  const height = useHeightLeft(aroundPx, leastPx);
  return data ? Math.max(LEAST, Math.min(MOST, height / ((data.to - data.from) / 60))) : 1;
}
