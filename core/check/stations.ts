import { nth } from "../checked.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Station } from "../site-file/schema.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

export function checkStations(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const numbers = new Map<string, Station>();
  const alone = new CapacityCalendar(w, "2000-01-01");
  site.stations.forEach((s, i) => {
    const path = `stations[${i}]`;
    const who = `Station ${s.number} ${s.name}`;
    const key = `${s.controllerId}:${s.number}`;
    const twin = numbers.get(key);
    if (twin)
      found.push(
        finding(
          "error",
          "duplicateStationNumber",
          `${path}.number`,
          s.id,
          `${who}: number ${s.number} is already used by ${twin.name} on the same controller. Give one of them another number.`,
        ),
      );
    else numbers.set(key, s);
    const flow = expectedFlow(s);
    if (!flow)
      found.push(
        finding("error", "noFlow", path, s.id, `${who} has no flow figure. Enter its design flow, or learn it.`),
      );
    if (s.lockedOut)
      found.push(
        finding(
          "error",
          "lockedOut",
          `${path}.lockedOut`,
          s.id,
          `${who} is locked out. Find the cause and clear it in the Log.`,
        ),
      );
    const mainline = nth(w.stationMainline, i);
    const group = nth(alone.groupOfController, nth(w.stationController, i));
    if (flow && !alone.everGives(group, mainline, flow.lpm)) {
      const reachable = alone.everGives(group, mainline, 1e-3);
      const name = site.mainlines[mainline]?.name ?? "";
      if (reachable)
        found.push(
          finding(
            "error",
            "stationAboveCeiling",
            path,
            s.id,
            `${who} alone uses ${flowWords(site, flow.lpm)}, more than can reach it through ${name}. Correct the flow, or water it from a larger main.`,
          ),
        );
      // That its main is out of use is said of the main.
      else if (!s.lockedOut && site.mainlines[mainline]?.enabled !== false)
        found.push(
          finding("error", "noSupply", path, s.id, `${who}: no open way from an enabled source through ${name}.`),
        );
    }
  });
  return found;
}
