import type { Policy } from "../site-file/schema.ts";

/** How long a condition has lasted, and whether it has been told already; `last` are the readings that the other schools look back on. */
export type Persistence = { count: number; told: boolean; last?: readonly number[] };

export const CALM: Persistence = { count: 0, told: false };

/** Of the readings in the persistence window, so many beyond the limit trip it (school of the share). */
export const SHARE_BEYOND = 0.8;
/** The school of the mean looks at so many seconds. */
export const MEAN_OF_S = 10;

/**
 * One reading more. Trips at the end of the persistence-th reading beyond without a break, once for one unbroken
 * condition; one reading back inside starts the count afresh (handbook#8-limits). `persistenceS` 0 trips at once.
 */
export function countBeyond(
  state: Persistence,
  beyond: boolean,
  persistenceS: number,
): { state: Persistence; trips: boolean } {
  if (!beyond) return { state: CALM, trips: false };
  const count = state.count + 1;
  const trips = !state.told && count >= persistenceS;
  return { state: { count, told: state.told || trips }, trips };
}

/**
 * One reading more, by the policy's school (handbook#8-limits): *unbroken*; *share*, at least 80 % of the readings in the persistence window beyond; *mean*, the mean of
 * 10 s beyond throughout it.
 *
 * @param excessLpm how far beyond the limit the reading is; under 0 inside
 * @returns `beyond`: as the school sees it now
 */
export function judgeReading(
  state: Persistence,
  excessLpm: number,
  policy: Pick<Policy, "persistenceS" | "judge">,
): { state: Persistence; trips: boolean; beyond: boolean } {
  const { persistenceS, judge = "unbroken" } = policy;
  if (judge === "unbroken") {
    const beyond = excessLpm > 1e-6;
    return { ...countBeyond(state, beyond, persistenceS), beyond };
  }
  const length = judge === "share" ? Math.max(1, persistenceS) : MEAN_OF_S;
  const last = [...(state.last ?? []), excessLpm].slice(-length);
  if (judge === "mean") {
    const beyond = last.length === length && last.reduce((a, b) => a + b, 0) / length > 1e-6;
    const next = countBeyond(state, beyond, persistenceS);
    return { state: { ...next.state, last }, trips: next.trips, beyond };
  }
  const count = last.filter((x) => x > 1e-6).length;
  const beyond = last.length === length && count >= SHARE_BEYOND * length;
  const trips = beyond && !state.told;
  return { state: { count, told: beyond, last }, trips, beyond };
}
