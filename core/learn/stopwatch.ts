/** Litres read off a meter, and the seconds they took. */
export type TimedVolume = { litres: number; seconds: number };

/**
 * Flow of a station from a meter and a stopwatch (timed volume): all litres ÷ all minutes; its spread is that between the readings, with one reading that of
 * half a second of the thumb.
 *
 * @returns null without a reading whose litres and seconds are over 0
 */
export function timedFlow(
  readings: readonly TimedVolume[],
): { meanLpm: number; sdLpm: number; samples: number } | null {
  const good = readings.filter((r) => r.litres > 0 && r.seconds > 0);
  const [first] = good;
  if (!first) return null;
  const litres = good.reduce((sum, r) => sum + r.litres, 0);
  const meanLpm = (60 * litres) / good.reduce((sum, r) => sum + r.seconds, 0);
  const flows = good.map((r) => (60 * r.litres) / r.seconds);
  const sdLpm =
    good.length > 1
      ? Math.sqrt(flows.reduce((sum, q) => sum + (q - meanLpm) ** 2, 0) / (good.length - 1))
      : (meanLpm * 0.5) / first.seconds;
  return { meanLpm, sdLpm, samples: good.length };
}

/** What a meter read twice with everything closed says, L/min; a leak under the sensor's minimum shows here. */
export function meterLeakLpm(beforeL: number, afterL: number, minutes: number): number | null {
  return minutes > 0 && afterL >= beforeL ? (afterL - beforeL) / minutes : null;
}
