import type { SiteFile } from "../site-file/schema.ts";

/**
 * What the night loses when weather inputs say stop (handbook#6-programs): every station that follows one of them
 * is out of every program for that night; a station that ignores it, and every station under a bypassed
 * input, waters on.
 *
 * @param active ids of inputs that say stop; an unknown or bypassed id stops nothing
 * @returns the site of that night, the stations stopped and those that water on, in the site's order
 */
export function stoppedByWeather(
  site: SiteFile,
  active: readonly string[],
): { site: SiteFile; stopped: string[]; waterOn: string[] } {
  const stops = (site.weatherInputs ?? []).filter((w) => active.includes(w.id) && w.bypassed !== true).map((w) => w.id);
  const scheduled = new Set(site.programs.flatMap((p) => p.runs.filter((r) => r.minutes > 0).map((r) => r.stationId)));
  const stopped = new Set(
    site.stations.filter((s) => stops.some((id) => !(s.ignoresInputs ?? []).includes(id))).map((s) => s.id),
  );
  const of = (is: boolean): string[] =>
    site.stations.filter((s) => scheduled.has(s.id) && stopped.has(s.id) === is).map((s) => s.id);
  if (stops.length === 0) return { site, stopped: [], waterOn: of(false) };
  return {
    site: {
      ...site,
      programs: site.programs.map((p) => ({ ...p, runs: p.runs.filter((r) => !stopped.has(r.stationId)) })),
    },
    stopped: of(true),
    waterOn: of(false),
  };
}
