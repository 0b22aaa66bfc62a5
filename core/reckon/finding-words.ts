import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import type { Finding } from "./findings.ts";

/** Causes in the order in which they are likely, by what was found (handbook#7-learning, handbook#8-limits). */
const CAUSES = {
  more: "a broken or missing outlet, a broken lateral, a valve that lets through",
  less: "a clogged filter or nozzle, a valve half open, a throttled flow control",
  drift: "wear or a nozzle changed",
  clogs: "clogging, or a flow control that was turned",
  sensor: "a wrong constant, a worn or dirty sensor",
  mainline: "a leak of the main, a valve stuck open, hand watering",
} as const;

/** A finding of the nights in a sentence, with its interval, since when, and what it may be. */
export function findingWords(site: SiteFile, f: Finding): string {
  const { units } = site.site;
  const names = f.subjectIds.map((id) => nameOf(site, id));
  const who = f.certain ? names.join(" and ") : `one of ${names.join(", ")}`;
  const since = f.since.slice(0, 10);
  if (f.kind === "sensor") {
    const percent = (100 * f.changeLpm).toFixed(1);
    return `${who} reads ${percent} ± ${(200 * f.sdLpm).toFixed(1)} % otherwise since ${since}: ${CAUSES.sensor}.`;
  }
  const by = `${showQuantity(Math.abs(f.changeLpm), "flow", units, 1)} ± ${showQuantity(2 * f.sdLpm, "flow", units, 1)}`;
  const way = f.changeLpm < 0 ? "less" : "more";
  const litres = showQuantity(Math.abs(f.litres), "volume", units, 0);
  const lost = f.changeLpm < 0 ? `${litres} not given so far` : `${litres} so far`;
  return `${who}: ${by} ${way} since ${since}, ${lost}; ${causesOf(f)}.`;
}

function causesOf(f: Finding): string {
  if (f.kind === "mainline") return CAUSES.mainline;
  if (f.kind === "drift") return f.changeLpm < 0 ? CAUSES.clogs : CAUSES.drift;
  return f.changeLpm < 0 ? CAUSES.less : CAUSES.more;
}

function nameOf(site: SiteFile, id: string): string {
  const station = site.stations.find((s) => s.id === id);
  if (station) return `${station.number} ${station.name}`;
  const devices = [...site.pocs.flatMap((p) => p.devices), ...site.mainlines.flatMap((m) => m.devices ?? [])];
  const found = site.mainlines.find((m) => m.id === id) ?? devices.find((d) => d.id === id);
  return found?.name ?? id;
}
