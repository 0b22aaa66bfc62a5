import type { FaultKind } from "../bench/faults/kinds.ts";
import { faultSpec } from "../bench/faults/kinds.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { WouldFind } from "./would-find.ts";

/** By how much a fault of usual size changes what a station flows, night after night, L/min; null where it changes nothing that nights read of the station. */
function changeOf(site: SiteFile, kind: FaultKind, stationId: string): number | null {
  const { effect, size } = faultSpec(kind);
  const station = site.stations.find((s) => s.id === stationId);
  const flow = station && expectedFlow(station)?.lpm;
  if (!flow) return null;
  if (effect.leaks) return size?.usual(site, stationId) ?? null;
  if (effect.throttles) return flow * (size?.usual(site, stationId) ?? 0);
  return effect.staysShut ? flow : null;
}

/** Whether the night's readings name a fault of usual size on a station for certain the next morning (handbook#12-last-night). */
export function isFoundNextMorning(
  site: SiteFile,
  nights: readonly WouldFind[],
  { kind, subjectId }: { kind: FaultKind; subjectId: string },
): boolean {
  const from = nights.find((f) => f.stationId === subjectId)?.fromLpm ?? null;
  const change = changeOf(site, kind, subjectId);
  return from !== null && change !== null && change >= from;
}
