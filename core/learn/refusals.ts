import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { companionsFor, pumpMinimumLpm } from "./companions.ts";

export const REFUSAL_REASONS = [
  "noRunTime",
  "noSensor",
  "lockedOut",
  "excluded",
  "flowAtRest",
  "belowPumpMinimum",
  "noSupply",
] as const;
export type RefusalReason = (typeof REFUSAL_REASONS)[number];
export type Refusal = { stationId: string; reasons: RefusalReason[] };

/** Which stations cannot be learned, and every reason why; nothing is skipped silently (handbook#7-learning). */
export function refusals(site: SiteFile, stationIds?: string[]): Refusal[] {
  const w = waterworks(site);
  const minutes = new Map<string, number>();
  for (const p of site.programs)
    for (const r of p.runs) minutes.set(r.stationId, (minutes.get(r.stationId) ?? 0) + r.minutes);
  const wanted = stationIds && new Set(stationIds);
  return site.stations.flatMap((s, i) => {
    if (wanted && !wanted.has(s.id)) return [];
    const reasons: RefusalReason[] = [];
    if (!((minutes.get(s.id) ?? 0) > 0)) reasons.push("noRunTime");
    const m = nth(w.stationMainline, i);
    const pocs = w.pocsAbove[m] ?? [];
    if (pocs.length === 0 || !pocs.some((p) => (w.pocSources[p] ?? []).length > 0)) reasons.push("noSupply");
    else if (!pocs.every((p) => measured(w, p)) && ownSensor(w, m) === null) reasons.push("noSensor");
    if (s.lockedOut || site.mainlines[m]?.lockedOut || pocs.every((p) => site.pocs[p]?.lockedOut))
      reasons.push("lockedOut");
    if (s.monitored === false) reasons.push("excluded");
    const flow = expectedFlow(s)?.lpm;
    // Under its pump's minimum it is learned by difference, if a companion can be found.
    if (s.usesPump !== false && flow !== undefined && flow < pumpMinimumLpm(w, i) && companionsFor(w, i) === null)
      reasons.push("belowPumpMinimum");
    return reasons.length > 0 ? [{ stationId: s.id, reasons }] : [];
  });
}

function measured(w: Waterworks, poc: number): boolean {
  return ["own", "mainlines"].includes(pocSensing(w, poc).by);
}

/** The nearest mainline above a main (itself among them) that carries a flow sensor of its own. */
export function ownSensor(w: Waterworks, mainline: number): number | null {
  return (
    (w.mainsAbove[mainline] ?? []).find((m) => w.site.mainlines[m]?.devices?.some((d) => d.kind === "flowSensor")) ??
    null
  );
}
