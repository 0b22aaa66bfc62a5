import type { Simulation } from "./simulate.ts";

/** What a night with faults did to one station beside the same night without them. Instants local, ISO 8601. */
export type Aftermath = {
  stationId: string /** When its last run ended; null: it did not run. */;
  calmEnd: string | null;
  end: string | null;
  minutesLess: number;
};

/** Stations that ended at another time, by a minute or more, or got less by half a minute or more, in the order in which they would have ended. */
export function aftermath(night: Simulation, calm: Simulation): Aftermath[] {
  const ends = (of: Simulation): Map<string, string> => {
    const last = new Map<string, string>();
    for (const r of of.runs) if (!r.test && (last.get(r.stationId) ?? "") < r.end) last.set(r.stationId, r.end);
    return last;
  };
  const [now, before] = [ends(night), ends(calm)];
  const short = (of: Simulation): Map<string, number> => new Map(of.unwatered.map((u) => [u.stationId, u.minutes]));
  const [less, lessBefore] = [short(night), short(calm)];
  return [...new Set([...before.keys(), ...now.keys()])]
    .map((stationId) => ({
      stationId,
      calmEnd: before.get(stationId) ?? null,
      end: now.get(stationId) ?? null,
      minutesLess: Math.round(10 * ((less.get(stationId) ?? 0) - (lessBefore.get(stationId) ?? 0))) / 10,
    }))
    .filter(
      (a) =>
        a.minutesLess >= 0.5 ||
        a.end === null ||
        a.calmEnd === null ||
        Math.abs(Date.parse(a.end) - Date.parse(a.calmEnd)) >= 60_000,
    )
    .sort((a, b) => Date.parse(a.calmEnd ?? a.end ?? "") - Date.parse(b.calmEnd ?? b.end ?? ""));
}
