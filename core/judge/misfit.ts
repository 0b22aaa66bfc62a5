/** Of the flow: always, and for what the stations of a set take from each other. */
const ALWAYS = 0.002;
const OF_WHAT_THEY_TAKE = 0.03;

/**
 * How far what a set draws may be from what the network says, as a share of it and a standard deviation: the same every night, so it is no new evidence each time (handbook#12-last-night).
 *
 * @param ratio what the set draws ÷ the sum of its parts
 */
export const misfitSd = (ratio: number): number => ALWAYS + OF_WHAT_THEY_TAKE * Math.abs(1 - ratio);
