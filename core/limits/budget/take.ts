import type { SiteFile } from "../../site-file/schema.ts";

/** A site with the limits and hold-offs of another state of it, in one step; everything else stays as it is, pieces that came since among it. */
export function withLimitsOf(site: SiteFile, from: SiteFile): SiteFile {
  return {
    ...site,
    policy: from.policy,
    pocs: site.pocs.map((p) => put(p, from.pocs, ["policy"])),
    mainlines: site.mainlines.map((m) => put(m, from.mainlines, ["policy", "holdOffS"])),
    stations: site.stations.map((s) => put(s, from.stations, ["highPercent", "lowPercent"])),
  };
}

/** These keys of an item as the other list has them, there or not. */
function put<T extends { id: string }>(item: T, list: readonly T[], keys: readonly (keyof T)[]): T {
  const other = list.find((x) => x.id === item.id);
  if (!other) return item;
  const next = { ...item };
  for (const key of keys) {
    if (other[key] === undefined) delete next[key];
    else next[key] = other[key];
  }
  return next;
}
