import { stationName } from "../site-file/station-name.ts";
import { nth } from "../checked.ts";
import type { Order } from "../field/orders.ts";
import { refusals } from "../learn/refusals.ts";
import { ceilingAbove, type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";

/** Above a ceiling by less is rounding, L/min. */
const ROUNDING_LPM = 1e-6;

/**
 * Why an order may not be given for this site, in words; null where it may. What opens a valve is held against lockouts and ceilings before it is said
 * (handbook#11-controllers).
 */
export function orderProblem(site: SiteFile, order: Order): string | null {
  switch (order.kind) {
    case "run": {
      const w = waterworks(site);
      return order.runs.map((r) => stationProblem(w, r.stationId)).find((p) => p !== null) ?? null;
    }
    case "program": {
      const program = site.programs.find((p) => p.id === order.programId);
      if (!program) return "There is no such program on this site.";
      return order.fromStationId && !program.runs.some((r) => r.stationId === order.fromStationId)
        ? "That station is not in this program."
        : null;
    }
    case "walk":
    case "check":
      return site.controllers.some((c) => c.id === order.controllerId)
        ? null
        : "There is no such controller on this site.";
    case "hand":
      return handProblem(waterworks(site), order);
    case "learn":
      return learnProblem(site, order.stationIds);
    default:
      return null;
  }
}

function stationProblem(w: Waterworks, id: string): string | null {
  const { site } = w;
  const at = w.stationIndex.get(id);
  if (at === undefined) return `There is no station "${id}" on this site.`;
  const s = nth(site.stations, at);
  const main = nth(w.stationMainline, at);
  const pocs = w.pocsAbove[main] ?? [];
  if (
    s.lockedOut ||
    (w.mainsAbove[main] ?? []).some((m) => site.mainlines[m]?.lockedOut) ||
    (pocs.length > 0 && pocs.every((p) => site.pocs[p]?.lockedOut))
  )
    return `${stationName(site, id)} is locked out. Clear its alarm first.`;
  const flow = expectedFlow(s)?.lpm;
  const ceiling = ceilingAbove(w, main);
  return flow !== undefined && flow > ceiling + ROUNDING_LPM
    ? `${stationName(site, id)} needs ${shown(site, flow)}; its supply carries ${shown(site, ceiling)}.`
    : null;
}

function handProblem(w: Waterworks, order: Extract<Order, { kind: "hand" }>): string | null {
  const { site } = w;
  const at = site.pocs.findIndex((p) => p.id === order.pocId);
  const poc = site.pocs[at];
  if (!poc) return "There is no such point of connection on this site.";
  if (poc.lockedOut) return `${poc.name} is locked out. Clear its alarm first.`;
  const ceiling = nth(w.pocCeiling, at);
  return order.flowLpm > ceiling + ROUNDING_LPM
    ? `${poc.name} carries ${shown(site, ceiling)}; ${shown(site, order.flowLpm)} is more than that.`
    : null;
}

function learnProblem(site: SiteFile, stationIds: string[]): string | null {
  const refused = refusals(site, stationIds);
  if (refused.length < stationIds.length) return null;
  const first = refused.slice(0, 3).map((r) => `${stationName(site, r.stationId)} (${r.reasons.join(", ")})`);
  return `None of these stations can be learned: ${first.join("; ")}.`;
}

const shown = (site: SiteFile, lpm: number): string => showQuantity(lpm, "flow", site.site.units, 1);
