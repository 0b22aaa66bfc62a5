export type Box = { left: number; top: number; width: number; height: number };
export type Way = "ArrowLeft" | "ArrowRight" | "ArrowUp" | "ArrowDown";

const WAYS: Record<Way, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** What lies off the straight way counts so many times. */
const ASIDE = 2.5;

export const isWay = (key: string): key is Way => key in WAYS;
const middle = (b: Box): [number, number] => [b.left + b.width / 2, b.top + b.height / 2];

/** Which box one comes to from another in a direction: the nearest whose middle lies that way, straight ahead before aside; null at the edge. */
export function nearest<T>(from: Box, all: readonly { box: Box; what: T }[], way: Way): T | null {
  const [dx, dy] = WAYS[way];
  const [x, y] = middle(from);
  let best: { what: T; far: number } | null = null;
  for (const { box, what } of all) {
    const [bx, by] = middle(box);
    const ahead = (bx - x) * dx + (by - y) * dy;
    if (ahead < 1) continue;
    const far = ahead + ASIDE * Math.abs((bx - x) * dy + (by - y) * dx);
    if (!best || far < best.far) best = { what, far };
  }
  return best?.what ?? null;
}
