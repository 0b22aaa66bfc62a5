import { nth } from "../checked.ts";
import { lowestCommonMainline } from "./system.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { PolicyOverride } from "../site-file/policy-schema.ts";
import type { Policy, SiteFile, Station } from "../site-file/schema.ts";

export type PolicyKey = keyof PolicyOverride;
/** A policy as it holds somewhere, and which point of connection or mainline each of its own figures comes from; what is not named comes from the site. */
export type Inherited = { policy: Policy; from: Partial<Record<PolicyKey, string>> };

/** The policy on a mainline: the site's, then that of its point of connection where it has only one, then of the mains above it, then its own. */
export function policyOfMain(w: Waterworks, main: number): Inherited {
  const pocs = w.pocsAbove[main] ?? [];
  const above = [...(w.mainsAbove[main] ?? [])].reverse();
  return inherited(w.site.policy, [
    ...(pocs.length === 1 ? [w.site.pocs[nth(pocs, 0)]] : []),
    ...above.map((m) => w.site.mainlines[m]),
  ]);
}

/** The policy that judges a set as a whole (persistence, school, responses, retest): that of the lowest mainline that all of it hangs on, else of its one point of connection, else the site's. */
export function policyOfSet(w: Waterworks, stations: readonly number[]): Policy {
  if (!hasOverrides(w.site)) return w.site.policy;
  const mains = [...new Set(stations.map((s) => nth(w.stationMainline, s)))];
  const shared = lowestCommonMainline(w, mains);
  if (shared !== null) return policyOfMain(w, shared).policy;
  const pocs = [...new Set(mains.flatMap((m) => w.pocsAbove[m] ?? []))];
  return pocs.length === 1 ? inherited(w.site.policy, [w.site.pocs[nth(pocs, 0)]]).policy : w.site.policy;
}

function inherited(
  site: Policy,
  levels: readonly ({ id: string; policy?: PolicyOverride | undefined } | undefined)[],
): Inherited {
  const found: Inherited = { policy: site, from: {} };
  for (const level of levels)
    for (const [key, value] of Object.entries(level?.policy ?? {}) as [PolicyKey, never][]) {
      if (value === undefined) continue;
      found.policy = { ...found.policy, [key]: value };
      found.from[key] = level?.id as string;
    }
  return found;
}

const hasOverrides = (site: SiteFile): boolean =>
  site.pocs.some((p) => p.policy) || site.mainlines.some((m) => m.policy);

const KNOWN = new WeakMap<SiteFile, SiteFile>();

/** The site with the percentages that its stations inherit from mains and points of connection written on them, so that sums of a set are right; the same object where there is nothing to inherit. */
export function withInherited(site: SiteFile): SiteFile {
  if (!hasOverrides(site)) return site;
  const known = KNOWN.get(site);
  if (known) return known;
  const w = waterworks(site);
  const stations = site.stations.map((s, i): Station => {
    const { policy, from } = policyOfMain(w, nth(w.stationMainline, i));
    return {
      ...s,
      ...(s.highPercent === undefined && from.highPercent !== undefined ? { highPercent: policy.highPercent } : {}),
      ...(s.lowPercent === undefined && from.lowPercent !== undefined ? { lowPercent: policy.lowPercent } : {}),
    };
  });
  const made = { ...site, stations };
  KNOWN.set(site, made);
  return made;
}
