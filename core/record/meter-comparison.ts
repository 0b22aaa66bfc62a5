/** Between two readings of a meter: what it counted, what the sensors behind it summed, over how long. */
export type MeterInterval = { meterL: number; sensorL: number; days: number };
/**
 * What the difference between a meter and the sensors behind it is.
 * - `agrees`: within what both can tell
 * - `constant`: the meter counts `factor` times what the sensors read, however much flows: their constant
 * - `unseen`: `litresADay` flow that no sensor sees, whatever is watered: a leak under the sensor's minimum, or taken before it
 * - `either`: the intervals do not tell these two apart
 * - `neither`: none of the two alone explains it
 */
export type MeterVerdict =
  | { is: "none" }
  | { is: "agrees"; share: number }
  | { is: "constant"; factor: number }
  | { is: "unseen"; litresADay: number }
  | { is: "either"; factor: number; litresADay: number }
  | { is: "neither"; factor: number; litresADay: number };

/** A meter and a sensor in order differ by no more, as a share of what flowed. */
const SURE_SHARE = 0.02;
/** A meter is read to so much, litres. */
const READ_TO_L = 20;
/** So much better one explanation has to fit than the other, in the sum of squares. */
const CLEARLY = 4;
/** Under this mean square an explanation fits. */
const FITS = 2.5;

/**
 * Judges the difference between a meter and sensors over some intervals (handbook#14-season): least squares of meter = factor · sensors against meter = sensors + litres a day ·
 * days, each interval weighted by what meter and sensor can tell. One interval alone tells only that they differ.
 */
export function compareMeter(all: readonly MeterInterval[]): MeterVerdict {
  const intervals = all.filter((i) => i.days > 0 && (i.meterL > 0 || i.sensorL > 0));
  const first = intervals[0];
  if (!first) return { is: "none" };
  const squares = (expected: (i: MeterInterval) => number): number =>
    sum(intervals, (i) => ((i.meterL - expected(i)) / sure(i)) ** 2);
  const weighed = (of: (i: MeterInterval) => number): number => sum(intervals, (i) => of(i) / sure(i) ** 2);
  const bySensor = weighed((i) => i.sensorL ** 2);
  const factor = bySensor > 0 ? weighed((i) => i.meterL * i.sensorL) / bySensor : Number.POSITIVE_INFINITY;
  const litresADay = weighed((i) => (i.meterL - i.sensorL) * i.days) / weighed((i) => i.days ** 2);
  const n = intervals.length;
  if (squares((i) => i.sensorL) <= FITS * n) return { is: "agrees", share: share(intervals) };
  const asConstant = squares((i) => factor * i.sensorL);
  const asUnseen = squares((i) => i.sensorL + litresADay * i.days);
  // Less than the sensors read cannot be water that they do not see.
  if (litresADay < 0)
    return asConstant <= FITS * n ? { is: "constant", factor } : { is: "neither", factor, litresADay };
  if (!Number.isFinite(factor)) return { is: "unseen", litresADay };
  if (Math.min(asConstant, asUnseen) > FITS * n) return { is: "neither", factor, litresADay };
  if (asConstant + CLEARLY < asUnseen) return { is: "constant", factor };
  if (asUnseen + CLEARLY < asConstant) return { is: "unseen", litresADay };
  return { is: "either", factor, litresADay };
}

const sure = ({ meterL, sensorL }: MeterInterval): number =>
  Math.hypot(SURE_SHARE * Math.max(meterL, sensorL), READ_TO_L);
const sum = <T>(of: readonly T[], figure: (one: T) => number): number => of.reduce((all, one) => all + figure(one), 0);
const share = (intervals: readonly MeterInterval[]): number => {
  const sensors = sum(intervals, (i) => i.sensorL);
  return sensors > 0 ? sum(intervals, (i) => i.meterL) / sensors - 1 : 0;
};
