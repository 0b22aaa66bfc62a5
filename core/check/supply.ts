import { nth } from "../checked.ts";
import { deliverableLpm } from "../hydraulics/deliverable.ts";
import { highestStaticKpa, pumpFacts } from "../hydraulics/main-facts.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pipeRatingKpa } from "../pipes/surge.ts";
import { pocSensing } from "../network/sensing.ts";
import type { DeviceOf, Poc } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import { type Finding, finding, flowWords } from "./finding.ts";

/** A limit above this share of what the supply can deliver never trips (handbook#8-limits). */
const REACHABLE = 0.9;

/** What supply and pumps make impossible or unsafe: limits that cannot be reached, pumps against a closed valve, pipes under too much pressure. */
export function checkSupply(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  site.pocs.forEach((p, i) => {
    const most = deliverableLpm(site, p);
    if (most !== null && p.burstLimitLpm !== undefined && p.burstLimitLpm > REACHABLE * most)
      found.push(
        finding(
          "warning",
          "burstNeverReached",
          `pocs[${i}].burstLimitLpm`,
          p.id,
          `${p.name}: the supply delivers ${flowWords(site, most)} at most, with nothing left of its pressure; the burst limit ${flowWords(site, p.burstLimitLpm)} is above 90 % of that and would never trip.`,
        ),
      );
    p.devices.forEach((d, j) => {
      if (d.kind === "pump") found.push(...checkPump(w, p, i, d, j));
    });
  });
  const stands = highestStaticKpa(site);
  site.mainlines.forEach((m, i) => {
    m.pipes.forEach((pipe, j) => {
      const rating = pipeRatingKpa(pipe);
      if (rating !== null && stands !== null && stands > rating)
        found.push(
          finding(
            "error",
            "pressureAboveRating",
            `mainlines[${i}].pipes[${j}]`,
            pipe.id,
            `${m.name}: ${pipe.name ?? pipe.nominal} is rated for ${showQuantity(rating, "pressure", site.site.units)}, and up to ${showQuantity(stands, "pressure", site.site.units)} can stand on it. Fit a regulator or stronger pipe; an engineer decides.`,
          ),
        );
    });
  });
  return found;
}

function checkPump(w: Waterworks, poc: Poc, i: number, pump: DeviceOf<"pump">, j: number): Finding[] {
  const { site } = w;
  const path = `pocs[${i}].devices[${j}]`;
  const label = pump.name ?? "Pump";
  const found: Finding[] = [];
  const valve = poc.devices.find((d) => d.kind === "masterValve" && d.normally === "closed");
  const dry = site.stations.filter(
    (s, n) =>
      s.usesPump !== false && s.usesMasterValve === false && (w.pocsAbove[nth(w.stationMainline, n)] ?? []).includes(i),
  );
  if (valve && dry.length > 0)
    found.push(
      finding(
        "warning",
        "pumpDeadHead",
        path,
        pump.id,
        `${label} can be dead-headed: ${dry
          .slice(0, 3)
          .map((s) => `${s.number} ${s.name}`)
          .join(
            ", ",
          )}${dry.length > 3 ? ` and ${dry.length - 3} more` : ""} call it, but not ${valve.name ?? "the master valve"}, which stays closed. A pump against a closed valve heats its water to scalding. Let them use the master valve, or not the pump.`,
      ),
    );
  if (pocSensing(w, i).by === "none")
    found.push(
      finding(
        "warning",
        "pumpUnwatched",
        path,
        pump.id,
        `${label} can be dead-headed unseen: ${poc.name} has no flow sensor, so nothing stops it when no water flows.`,
      ),
    );
  const facts = pumpFacts(pump);
  if (pump.minFlowLpm === undefined)
    found.push(
      finding(
        "note",
        "pumpMinimumUnknown",
        `${path}.minFlowLpm`,
        pump.id,
        `${label}: its minimum flow is not entered, so small stations alone on it are not kept from running.`,
      ),
    );
  if (pump.bestEfficiencyLpm !== undefined && facts.mostLpm > facts.endOfCurveLpm)
    found.push(
      finding(
        "warning",
        "pumpRunOut",
        `${path}.bestEfficiencyLpm`,
        pump.id,
        `${label}: 115 % of its best efficiency, ${flowWords(site, facts.mostLpm)}, is beyond the end of its curve, ${flowWords(site, facts.endOfCurveLpm)}: the pump would run out. Enter more of the curve, or correct the point.`,
      ),
    );
  return found;
}
