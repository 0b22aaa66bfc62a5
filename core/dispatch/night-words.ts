import { localClock } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { NightWarning } from "./night-warnings.ts";

/** A warning of the night in words for people. */
export function warningWords(site: SiteFile, warning: NightWarning): string {
  const program = site.programs.find((p) => p.id === warning.subjectId)?.name ?? "";
  const station = site.stations.find((s) => s.id === warning.subjectId);
  const who = station ? `Station ${station.number} ${station.name}` : "";
  const clock = (at: number | undefined): string => (at === undefined ? "" : localClock(site.site.timeZone, at));
  switch (warning.code) {
    case "held": {
      const held = site.programs.find((p) => p.id === warning.subjectId);
      if (held)
        return held.holdUntil === "indefinite"
          ? `${held.name} is held with no end set.`
          : `${held.name} is held until ${held.holdUntil}.`;
      return site.site.holdUntil === "indefinite"
        ? "The site is off with no end set: nothing waters."
        : `The site is held until ${site.site.holdUntil}: nothing waters before that day.`;
    }
    case "controllerOff":
      return `Controller ${site.controllers.find((c) => c.id === warning.subjectId)?.name ?? ""} is off: its programs do not run.`;
    case "startsQueue":
      return `${program}: the ${clock(warning.at)} start waits until the ${clock(warning.otherAt)} start has ended.`;
    case "startTwice":
      return `${program}: two of its starts fall on one instant; they are one start.`;
    case "startCut":
      return `${program}: the ${clock(warning.at)} start was held back by its window and is cut by the ${clock(warning.otherAt)} start.`;
    case "noFlow":
      return `${who} has no flow figure. It runs alone on its connected system; enter its design flow or learn it.`;
    case "lockedOut":
      return `${who} is locked out, or everything that could feed it is. Clear the lockout in the Log.`;
    case "aboveCeiling":
      return `${who} alone is above a ceiling on its way. Correct its flow, or water it from a larger main.`;
    case "noSupply":
      return `${who} has no way to an enabled source. Check the feeds of its mainline.`;
    case "pumpMinimum":
      return `${who} leaves its pump under the minimum flow. Let it run together with others, or lower the pump's minimum if its sheet allows.`;
    case "timeSkipped":
      return `${program}: the clock change skips one of its start times that night; it starts at the first minute after the gap.`;
    case "dayEnd":
      return `${program}: 24 hours after its start it was still not done; what was left is a shortfall.`;
  }
}
