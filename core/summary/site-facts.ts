import { check } from "../check/check.ts";
import { monthBudgetM3, shareOfBudget } from "../season/month-water.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type Dated, datedOf } from "../visits/dated.ts";
import { type DutySubject, dutySubjects } from "../visits/duties.ts";

/** What Rounds shows of a site beside its night: of its file alone, whatever the date. */
export type SiteFacts = {
  timeZone: string;
  units: "us" | "metric";
  /** Where it is, degrees north and east, where that is entered. */
  place: { latitudeDeg: number; longitudeDeg: number } | null;
  stations: number;
  controllers: number;
  /** Kinds of its controllers, by id, and kinds of its sources: what a site is found by. */
  profileIds: string[];
  sourceKinds: string[];
  /** "indefinite", or the date until which the site is off. */
  hold: string | null;
  /** Instant of the oldest learned flow. */
  oldestLearned: string | null;
  /** Watched stations without a learned flow. */
  unlearned: number;
  /** Why nothing waters though something is set up: every controller off, or no program in use. Null: something may. */
  idle: "controllersOff" | "noProgramInUse" | null;
  /** Controllers and programs that are off, by name, where others of the site are on. */
  off: { controllers: string[]; programs: string[] };
  /** Every finding of severity error, in words; what is locked out is counted by itself. */
  errors: string[];
  /** What the programs take of each month's budget, January first, 1: all of it; null where there is none. */
  ofBudget: (number | null)[];
  /** What each month's budget gives, m³, January first; null where there is none. */
  budgetM3: (number | null)[];
  /** What has to be done anew from time to time, and when the settings say that it was done. */
  duties: DutySubject[];
  /** What stands in its calendar by the settings. */
  dated: Dated[];
};

/** So many words of one kind are kept; more tell nobody more. */
const MOST_WORDS = 20;

/** @param findings of the site, where they are found already */
export function siteFacts(site: SiteFile, w = waterworks(site), findings = check(site, w)): SiteFacts {
  const learned = site.stations.flatMap((s) => (s.learned ? [s.learned.at] : [])).sort();
  const idle = idleBy(site);
  return {
    timeZone: site.site.timeZone,
    units: site.site.units,
    place: placeOf(site.site),
    stations: site.stations.length,
    controllers: site.controllers.length,
    profileIds: [...new Set(site.controllers.flatMap((c) => c.profileId ?? []))].sort(),
    sourceKinds: [...new Set(site.sources.map((s) => s.kind))].sort(),
    hold: site.site.holdUntil ?? null,
    oldestLearned: learned[0] ?? null,
    unlearned: site.stations.filter((s) => s.monitored !== false && !s.learned).length,
    idle,
    off: {
      controllers: idle === "controllersOff" ? [] : names(site.controllers.filter((c) => c.off)),
      programs: idle === null ? names(site.programs.filter((p) => p.enabled === false)) : [],
    },
    errors: findings
      .filter((f) => f.severity === "error" && f.code !== "lockedOut")
      .map((f) => f.message)
      .slice(0, MOST_WORDS),
    ofBudget: Array.from({ length: 12 }, (_, month) => shareOfBudget(site, month)),
    budgetM3: Array.from({ length: 12 }, (_, month) => monthBudgetM3(site, month)),
    duties: dutySubjects(site, w),
    dated: datedOf(site).slice(0, MOST_WORDS),
  };
}

function placeOf({ latitudeDeg, longitudeDeg }: SiteFile["site"]): SiteFacts["place"] {
  return latitudeDeg === undefined || longitudeDeg === undefined ? null : { latitudeDeg, longitudeDeg };
}

const names = (of: readonly { name: string }[]): string[] => of.map((e) => e.name).slice(0, MOST_WORDS);

function idleBy(site: SiteFile): SiteFacts["idle"] {
  const off = new Set(site.controllers.filter((c) => c.off).map((c) => c.id));
  if (site.programs.length === 0) return null;
  if (site.controllers.every((c) => off.has(c.id))) return "controllersOff";
  return site.programs.every((p) => p.enabled === false || off.has(p.controllerId)) ? "noProgramInUse" : null;
}
