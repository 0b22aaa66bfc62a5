import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { checkControllers } from "./controllers.ts";
import { type Finding, finding } from "./finding.ts";
import { checkLimits } from "./limits.ts";
import { checkPrograms, programsAsWritten } from "./programs.ts";
import { checkSensors } from "./sensors.ts";
import { checkStations } from "./stations.ts";
import { checkSupply } from "./supply.ts";
import { checkWaterworks } from "./waterworks.ts";

/**
 * Everything about a site that is wrong, doubtful or worth knowing, in the order of the work. Pure: needs no date. What only the network
 * solver can tell is in `pressureFindings`.
 */
export function check(site: SiteFile, w = waterworks(site)): Finding[] {
  const found = [
    ...checkWaterworks(w),
    ...checkSupply(w),
    ...checkControllers(w),
    ...checkSensors(w),
    ...checkStations(w),
    ...checkPrograms(w),
    ...checkLimits(w),
  ];
  const off = placesOutOfUse(site);
  if (off.size === 0) return found;
  return [...notesOutOfUse(site, off), ...found.filter((f) => !off.has(/^\w+\[\d+\]/.exec(f.path)?.[0] ?? ""))];
}

/** Findings with which a configuration would not mean anything to a controller: a save refuses them. Others are saved and shown. */
const REFUSED = new Set([
  "duplicateStationNumber",
  "noDays",
  "datesReversed",
  "pumpCurveOrder",
  "addressTwice",
  "serialTwice",
]);

/** Of everything that {@link check} finds, what a save refuses: without the reckoning that none of it needs. */
export function refusedFindings(site: SiteFile): Finding[] {
  const w = waterworks(site);
  const found = [...checkWaterworks(w), ...checkControllers(w), ...checkStations(w), ...programsAsWritten(site)];
  return found.filter((f) => REFUSED.has(f.code));
}

/** Where in the file stands what is out of use, like `pocs[0]`: what else could be said of it is not. */
function placesOutOfUse(site: SiteFile): Map<string, { id: string; name: string }> {
  const places = new Map<string, { id: string; name: string }>();
  for (const list of ["sources", "pocs", "mainlines"] as const)
    site[list].forEach((e, i) => {
      if (e.enabled === false) places.set(`${list}[${i}]`, e);
    });
  return places;
}

function notesOutOfUse(site: SiteFile, off: ReadonlyMap<string, { id: string; name: string }>): Finding[] {
  return [...off].map(([path, e]) => {
    const on = site.stations.filter((s) => s.mainlineId === e.id).length;
    const stations = on > 0 ? ` Its ${on} station${on > 1 ? "s" : ""} get no water from it.` : "";
    return finding("note", "notInUse", `${path}.enabled`, e.id, `${e.name} is not in use.${stations}`);
  });
}
