import { MEAN_OF_S, SHARE_BEYOND } from "../../judge/persistence.ts";
import type { Policy } from "../../site-file/schema.ts";

/** How the readings of a stretch are judged; `retestWaitS` null: the first trip counts. */
export type Judging = {
  judge: NonNullable<Policy["judge"]>;
  persistenceS: number;
  holdOffS: number;
  retestWaitS: number | null;
};

export const RETEST_WAIT_S = 60;

/** How a policy judges after a hold-off. */
export const judgingOf = (policy: Policy, holdOffS: number): Judging => ({
  judge: policy.judge ?? "unbroken",
  persistenceS: Math.max(1, policy.persistenceS),
  holdOffS,
  retestWaitS: policy.retest ? (policy.retestWaitS ?? RETEST_WAIT_S) : null,
});

/**
 * The highest level that readings hold as long as they are judged for: any high limit under it trips, none over it does. −∞ where they are too short to be judged.
 *
 * @param readings one a second from the change of valves on
 * @see judgeReading, which does the same for one limit, a reading at a time
 */
export function heldLevel(readings: Float32Array, how: Judging): number {
  const judged = readings.subarray(Math.min(readings.length, how.holdOffS));
  const seen = how.judge === "mean" ? movingMeans(judged, MEAN_OF_S) : judged;
  const levels = how.judge === "share" ? sharedLevels(seen, how.persistenceS) : unbrokenLevels(seen, how.persistenceS);
  if (how.retestWaitS === null) return levels.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY);
  // Closed, waited, run again: another hold-off, and the whole window anew.
  const window = judged.length - levels.length + 1;
  return heldTwice(levels, how.retestWaitS + how.holdOffS + window);
}

/** At the end of each window, its lowest: the level under which no reading of it falls. */
function unbrokenLevels(readings: Float32Array, window: number): Float32Array {
  const levels = new Float32Array(Math.max(0, readings.length - window + 1));
  const queue = new Int32Array(readings.length);
  let [first, last] = [0, 0];
  for (let t = 0; t < readings.length; t++) {
    const now = readings[t] as number;
    while (last > first && (readings[queue[last - 1] as number] as number) >= now) last--;
    queue[last++] = t;
    if ((queue[first] as number) <= t - window) first++;
    if (t >= window - 1) levels[t - window + 1] = readings[queue[first] as number] as number;
  }
  return levels;
}

/** At the end of each window, the level that the asked share of its readings is over. */
function sharedLevels(readings: Float32Array, window: number): Float32Array {
  const levels = new Float32Array(Math.max(0, readings.length - window + 1));
  const over = Math.ceil(SHARE_BEYOND * window - 1e-9);
  for (let t = 0; t < levels.length; t++) levels[t] = readings.slice(t, t + window).sort()[window - over] as number;
  return levels;
}

function movingMeans(readings: Float32Array, window: number): Float32Array {
  const means = new Float32Array(Math.max(0, readings.length - window + 1));
  let sum = 0;
  for (let t = 0; t < readings.length; t++) {
    sum += readings[t] as number;
    if (t >= window) sum -= readings[t - window] as number;
    if (t >= window - 1) means[t - window + 1] = sum / window;
  }
  return means;
}

/** The highest level held once and, so many seconds later at least, again. */
function heldTwice(levels: Float32Array, apart: number): number {
  let [before, best] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let t = apart; t < levels.length; t++) {
    before = Math.max(before, levels[t - apart] as number);
    best = Math.max(best, Math.min(before, levels[t] as number));
  }
  return best;
}
