/** Pressure at one station's valve. `requiredKpa` null: the site does not say what it needs. */
export type StationPressure = { stationId: string; kPa: number; requiredKpa: number | null; marginKpa: number | null };

/** The station that is worst off: least margin over what it requires, or least pressure where none states a requirement. */
export function worstOf(stations: StationPressure[]): StationPressure | null {
  const stated = stations.filter((s) => s.marginKpa !== null);
  const pool = stated.length > 0 ? stated : stations;
  return pool.reduce<StationPressure | null>(
    (worst, s) => (worst === null || (s.marginKpa ?? s.kPa) < (worst.marginKpa ?? worst.kPa) ? s : worst),
    null,
  );
}
