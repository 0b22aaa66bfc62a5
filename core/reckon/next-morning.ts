import type { FaultKind } from "../bench/faults/kinds.ts";
import { faultSpec } from "../bench/faults/kinds.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { WouldFind } from "./would-find.ts";

/** A fault of some size; absent: of its usual one. */
type OfStation = { kind: FaultKind; subjectId: string; size?: number };

/** By how much a fault changes what a station flows, night after night, L/min; null where it changes nothing that nights read of the station. */
function changeOf(site: SiteFile, { kind, subjectId, size: asked }: OfStation): number | null {
  const { effect, size } = faultSpec(kind);
  const station = site.stations.find((s) => s.id === subjectId);
  const flow = station && expectedFlow(station)?.lpm;
  if (!flow) return null;
  const much = asked ?? size?.usual(site, subjectId);
  if (effect.leaks) return much ?? null;
  if (effect.throttles) return flow * (much ?? 0);
  return effect.staysShut ? flow : null;
}

/** Whether the night's readings name a fault on a station for certain the next morning (handbook#12-last-night). */
export function isFoundNextMorning(site: SiteFile, nights: readonly WouldFind[], fault: OfStation): boolean {
  const from = nights.find((f) => f.stationId === fault.subjectId)?.fromLpm ?? null;
  const change = changeOf(site, fault);
  return from !== null && change !== null && change >= from;
}
