import { stationName } from "../site-file/station-name.ts";
import { MONTHS } from "../dates/months.ts";
import { weekdayOf } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showNumber, showQuantity, toShown, type UnitSystem } from "../units/units.ts";
import type { Finding } from "./findings.ts";

/** What it is likely to be, in a word; its causes in the order in which they are likely; and the check that tells them apart (handbook#7-learning, handbook#8-limits). */
type Likely = { what: string; causes: string; check: string };
const LIKELY = {
  more: {
    what: "a break likely",
    causes: "a broken or missing outlet, a broken lateral, a valve that lets through",
    check: "Run it alone and walk it: water where no outlet is tells a lateral, a fountain an outlet.",
  },
  less: {
    what: "less water",
    causes: "a clogged filter or nozzle, a valve half open, a throttled flow control",
    check: "Run it alone, clean its filter, and look whether the flow comes back.",
  },
  wears: {
    what: "more water week by week",
    causes: "wear, or nozzles changed one after the other",
    check: "Compare its nozzles with the plan.",
  },
  clogs: {
    what: "clogging likely",
    causes: "clogging, or a flow control that was turned",
    check: "Clean its filter and nozzles, and look whether the flow comes back.",
  },
  sensor: {
    what: "a sensor reads otherwise",
    causes: "a wrong constant, a worn or dirty sensor",
    check: "Compare it with the meter on a test row.",
  },
  mainline: {
    what: "a leak likely",
    causes: "a leak of the main, a valve stuck open, hand watering",
    check: "Shut the stations and read the meter for ten minutes.",
  },
} as const satisfies Record<string, Likely>;
/** So many names in a line. */
const MOST_NAMES = 3;

/** A finding in a line; what it may be; and what tells that. */
export type FindingWords = { head: string; causes: string; check: string };

/** A finding of the nights in words: what, where, since when, how much with its interval (two standard deviations), what it has cost and what it may be. */
export function findingWords(site: SiteFile, f: Finding): FindingWords {
  const { units } = site.site;
  const { what, causes, check } = likelyOf(f);
  const day = (instant: string): string => dayOf(instant, units);
  const when = f.until === null ? `since ${day(f.since)}` : `from ${day(f.since)} to ${day(f.until)}`;
  const head = `${f.certain ? what : `${what}, not certain where:`} at ${namesOf(site, f)} ${when}`;
  if (f.kind === "sensor")
    return { head: `${head}, by ${(100 * f.changeLpm).toFixed(1)} ± ${(200 * f.sdLpm).toFixed(1)} %`, causes, check };
  const by = `${showNumber(toShown(Math.abs(f.changeLpm), "flow", units), 1)} ± ${showQuantity(2 * f.sdLpm, "flow", units, 1)}`;
  const litres = showQuantity(Math.abs(f.litres), "volume", units, 0);
  const cost = `${litres}${f.changeLpm < 0 ? " not given" : ""}${f.until === null ? " so far" : ""}`;
  return { head: `${head}, ${by}, ${cost}`, causes, check };
}

/** Those that cannot be told from each other are one or the other. */
function namesOf(site: SiteFile, f: Finding): string {
  const names = [...new Set(f.subjectIds.map((id) => nameOf(site, id)))];
  if (names.length <= MOST_NAMES) return names.join(" or ");
  return `${names.slice(0, MOST_NAMES).join(", ")} or ${names.length - MOST_NAMES} more`;
}

function likelyOf(f: Finding): Likely {
  if (f.kind === "mainline" || f.kind === "sensor") return LIKELY[f.kind];
  if (f.kind === "drift") return f.changeLpm < 0 ? LIKELY.clogs : LIKELY.wears;
  return f.changeLpm < 0 ? LIKELY.less : LIKELY.more;
}

/** A date as people there say it. */
function dayOf(instant: string, units: UnitSystem): string {
  const date = instant.slice(0, 10);
  const [month, day] = [MONTHS[Number(date.slice(5, 7)) - 1], Number(date.slice(8))];
  const weekday = weekdayOf(date);
  return `${weekday[0]?.toUpperCase()}${weekday.slice(1)} ${units === "us" ? `${month} ${day}` : `${day} ${month}`}`;
}

function nameOf(site: SiteFile, id: string): string {
  const devices = [...site.pocs.flatMap((p) => p.devices), ...site.mainlines.flatMap((m) => m.devices ?? [])];
  const found = site.mainlines.find((m) => m.id === id) ?? devices.find((d) => d.id === id);
  return found?.name ?? stationName(site, id);
}
