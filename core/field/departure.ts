import type { EpochS } from "../dates/wall-time.ts";

/**
 * A time in which one system reads outside its limits, the controller's search for it included: plain data, kept between readings. What it costs is the reading less what
 * should have flowed, over the time it was outside: over 0 ran away, under 0 was not given.
 */
export type Departure = {
  from: EpochS;
  /** The last second that was outside. */
  until: EpochS;
  seconds: number;
  litres: number;
  /** The alarm that it became. */
  alarm: { at: EpochS; subjectId: string } | null;
};
export type AlarmedDeparture = Departure & { alarm: NonNullable<Departure["alarm"]> };
/** What one system reads and should read, L/min. */
export type Standing = { measuredLpm: number; expectedLpm: number; lowLpm: number; highLpm: number };

/** Back inside for so long it is over; a controller that closes everything and tries station by station is back inside in between, s. */
export const OVER_AFTER_S = 300;

/**
 * The departure after one more reading.
 *
 * @param standing null where nobody can tell
 * @param at epoch s of the reading, which stands for `stands` seconds
 * @param settled hold-off is over. Before it only what was outside already goes on; a main that fills is no departure
 * @param searching the controller looks for what it was
 */
export function departed(
  before: Departure | null,
  standing: Standing | null,
  at: EpochS,
  stands: number,
  settled: boolean,
  searching: boolean,
): Departure | null {
  if (!standing || !outside(standing, before, settled))
    return before && (searching || at - before.until <= OVER_AFTER_S) ? before : null;
  const was = before ?? { from: at - stands, until: at, seconds: 0, litres: 0, alarm: null };
  return {
    ...was,
    until: at,
    seconds: was.seconds + stands,
    litres: was.litres + ((standing.measuredLpm - standing.expectedLpm) * stands) / 60,
  };
}

function outside({ measuredLpm, lowLpm, highLpm }: Standing, before: Departure | null, settled: boolean): boolean {
  return (measuredLpm > highLpm && (settled || before !== null)) || (measuredLpm < lowLpm && settled);
}
