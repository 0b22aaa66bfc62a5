/** A mean on either side of a jump is of at most so long: by then the supply has hardly moved, s. */
const BESIDE_S = 60;
/** So much surer than the readings' own noise, and so much of the flow, is a jump. */
const JUMP_Z = 6;
const LEAST_SHARE = 0.01;

/** A reading of so many L/min that stands for so many seconds. */
export type Read = { lpm: number; s: number };

/**
 * Where the readings of one set, all valves standing still, jump from one flow to another, as where something breaks or a hose is opened meanwhile: what was read before and after is not one reading. Told by the
 * means of the minute before and the minute after, against the noise from one reading to the next, which neither a jump nor the supply's slow swing moves.
 *
 * @param leastS what is shorter on either side is no flow of its own, s
 * @returns place of the first reading after the surest jump; null where there is none
 */
export function jumpIn(reads: readonly Read[], leastS: number): number | null {
  if (reads.length < 4) return null;
  const [seconds, litres60] = [[0], [0]];
  for (const [i, { lpm, s }] of reads.entries()) {
    seconds.push((seconds[i] as number) + s);
    litres60.push((litres60[i] as number) + lpm * s);
  }
  const all = seconds.at(-1) as number;
  const noise = noiseOf(reads);
  const least = (LEAST_SHARE * (litres60.at(-1) as number)) / all;
  let [surest, found] = [JUMP_Z, null as number | null];
  let [begin, end] = [0, 0];
  for (let i = 1; i < reads.length; i++) {
    const at = seconds[i] as number;
    if (at < leastS || all - at < leastS) continue;
    while (at - (seconds[begin] as number) > BESIDE_S) begin++;
    while (end < reads.length && (seconds[end] as number) - at < BESIDE_S) end++;
    const mean = (from: number, to: number): number =>
      ((litres60[to] as number) - (litres60[from] as number)) / ((seconds[to] as number) - (seconds[from] as number));
    const by = Math.abs(mean(i, end) - mean(begin, i));
    const z = by / (noise * Math.sqrt(1 / (i - begin) + 1 / (end - i)));
    if (by >= least && z > surest) [surest, found] = [z, i];
  }
  return found;
}

/** Standard deviation of a reading by itself, from the middle one of the differences to the next. */
function noiseOf(reads: readonly Read[]): number {
  const apart = reads.slice(1).map((r, i) => Math.abs(r.lpm - (reads[i] as Read).lpm));
  const middle = apart.sort((a, b) => a - b)[Math.floor(apart.length / 2)] as number;
  // The difference of two normal readings is √2 as wide, and half of such lie within 0.6745 of that.
  return Math.max(1e-6, middle / (Math.SQRT2 * 0.6745));
}
