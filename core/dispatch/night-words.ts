import { stationName } from "../site-file/station-name.ts";
import { localClock } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { NightWarning } from "./night-warnings.ts";

/** What is said of a station, of several at once, and what to do; "several" stands where their number is written before. */
const OF_STATIONS = {
  noFlow: {
    one: "has no flow figure. It runs alone on its connected system; enter its design flow or learn it.",
    several: "have no flow figure. Each runs alone on its connected system; enter their design flows or learn them",
  },
  lockedOut: {
    one: "is locked out, or everything that could feed it is. Clear the lockout in the Log.",
    several: "are locked out, or everything that could feed them is. Clear the lockouts in the Log",
  },
  aboveCeiling: {
    one: "alone is above a ceiling on its way. Correct its flow, or water it from a larger main.",
    several: "are each alone above a ceiling on their way. Correct their flows, or water them from a larger main",
  },
  noSupply: {
    one: "has no way to an enabled source. Check the feeds of its mainline.",
    several: "have no way to an enabled source. Check the feeds of their mainlines",
  },
  pumpMinimum: {
    one: "leaves its pump under the minimum flow. Let it run together with others, or lower the pump's minimum if its sheet allows.",
    several:
      "leave their pump under the minimum flow. Let them run together with others, or lower the pump's minimum if its sheet allows",
  },
} as const;
const NAMED = 4;

/** Warnings for people, each once: what is said of several stations is said in one line that names them. */
export function warningLines(
  site: SiteFile,
  warnings: readonly { code: string; subjectId?: string; message: string }[],
): string[] {
  const told = new Set<string>();
  return warnings.flatMap((w) => {
    const words = Object.hasOwn(OF_STATIONS, w.code) ? OF_STATIONS[w.code as keyof typeof OF_STATIONS] : null;
    const like = warnings.filter((x) => x.code === w.code);
    if (!words || like.length === 1) return [w.message];
    if (told.has(w.code)) return [];
    told.add(w.code);
    const names = like.map((x) => stationName(site, x.subjectId ?? ""));
    const more = names.length > NAMED ? ` and ${names.length - NAMED} more` : "";
    return [`${like.length} stations ${words.several}: ${names.slice(0, NAMED).join(", ")}${more}.`];
  });
}

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
    case "lockedOut":
    case "aboveCeiling":
    case "noSupply":
    case "pumpMinimum":
      return `${who} ${OF_STATIONS[warning.code].one}`;
    case "timeSkipped":
      return `${program}: the clock change skips one of its start times that night; it starts at the first minute after the gap.`;
    case "dayEnd":
      return `${program}: 24 hours after its start it was still not done; what was left is a shortfall.`;
  }
}
