import type { SiteFile } from "../site-file/schema.ts";

/** What Rounds shows of a site beside its night: of its file alone, whatever the date. */
export type SiteFacts = {
  timeZone: string;
  units: "us" | "metric";
  stations: number;
  controllers: number;
  /** "indefinite", or the date until which the site is off. */
  hold: string | null;
  /** Instant of the oldest learned flow. */
  oldestLearned: string | null;
  /** Watched stations without a learned flow. */
  unlearned: number;
  /** Why nothing waters though something is set up: every controller off, or no program in use. Null: something may. */
  idle: "controllersOff" | "noProgramInUse" | null;
};

export function siteFacts(site: SiteFile): SiteFacts {
  const learned = site.stations.flatMap((s) => (s.learned ? [s.learned.at] : [])).sort();
  return {
    timeZone: site.site.timeZone,
    units: site.site.units,
    stations: site.stations.length,
    controllers: site.controllers.length,
    hold: site.site.holdUntil ?? null,
    oldestLearned: learned[0] ?? null,
    unlearned: site.stations.filter((s) => s.monitored !== false && !s.learned).length,
    idle: idleBy(site),
  };
}

function idleBy(site: SiteFile): SiteFacts["idle"] {
  const off = new Set(site.controllers.filter((c) => c.off).map((c) => c.id));
  if (site.programs.length === 0) return null;
  if (site.controllers.every((c) => off.has(c.id))) return "controllersOff";
  return site.programs.every((p) => p.enabled === false || off.has(p.controllerId)) ? "noProgramInUse" : null;
}
