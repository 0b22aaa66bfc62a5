/** A body to choose from: the flows it sees, L/min. */
export type Body = { label: string; minLpm: number; maxLpm: number };
export type BodyFit = Body & {
  /** Flows under its minimum: stations that it cannot see. */
  unseen: number;
  /** Does it read up to the ceiling? */
  reaches: boolean;
  /** Smallest flow to watch ÷ its minimum, and its maximum ÷ the ceiling, the lesser of the two; over 1 it fits with that much to spare. */
  spare: number;
};

/**
 * Bodies in order of fit (handbook#4-sensors): first those that read up to the ceiling, since a burst must be read; then the fewest of `flowsLpm` unseen; then the
 * most to spare at the tighter end. Where none fits, the first is the least wrong and says how many it leaves unseen.
 * @param flowsLpm expected flows of the monitored stations behind it.
 * @param mostLpm ceiling, or burst limit where that is higher; null: not judged.
 */
export function fitBodies(bodies: Body[], flowsLpm: number[], mostLpm: number | null): BodyFit[] {
  const least = Math.min(...flowsLpm);
  return bodies
    .map((b) => ({
      ...b,
      unseen: flowsLpm.filter((f) => f < b.minLpm - 1e-9).length,
      reaches: mostLpm === null || b.maxLpm >= mostLpm - 1e-9,
      spare: Math.min(
        flowsLpm.length > 0 ? least / b.minLpm : Number.POSITIVE_INFINITY,
        mostLpm === null ? Number.POSITIVE_INFINITY : b.maxLpm / mostLpm,
      ),
    }))
    .sort((a, b) => Number(b.reaches) - Number(a.reaches) || a.unseen - b.unseen || b.spare - a.spare);
}
