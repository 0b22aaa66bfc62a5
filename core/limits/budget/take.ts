import type { SiteFile } from "../../site-file/schema.ts";

type Of<K extends "pocs" | "mainlines" | "stations", F extends keyof SiteFile[K][number]> = Pick<
  SiteFile[K][number],
  "id" | F
>[];
/** What a site's limits are: its policy, and what connections, mains and stations have of their own. */
export type LimitsOf = {
  policy: SiteFile["policy"];
  pocs: Of<"pocs", "policy">;
  mainlines: Of<"mainlines", "policy" | "holdOffS">;
  stations: Of<"stations", "highPercent" | "lowPercent">;
};

export const limitsOf = ({ policy, pocs, mainlines, stations }: SiteFile): LimitsOf => ({
  policy,
  pocs: pocs.map((p) => ({ id: p.id, ...(p.policy ? { policy: p.policy } : {}) })),
  mainlines: mainlines.map((m) => ({
    id: m.id,
    ...(m.policy ? { policy: m.policy } : {}),
    ...(m.holdOffS === undefined ? {} : { holdOffS: m.holdOffS }),
  })),
  stations: stations.map(({ id, highPercent, lowPercent }) => ({
    id,
    ...(highPercent === undefined ? {} : { highPercent }),
    ...(lowPercent === undefined ? {} : { lowPercent }),
  })),
});

/** A site with the limits and hold-offs of another state of it, in one step; everything else stays as it is, pieces that came since among it. */
export function withLimitsOf(site: SiteFile, from: LimitsOf): SiteFile {
  return {
    ...site,
    policy: from.policy,
    pocs: site.pocs.map((p) => put(p, from.pocs, ["policy"])),
    mainlines: site.mainlines.map((m) => put(m, from.mainlines, ["policy", "holdOffS"])),
    stations: site.stations.map((s) => put(s, from.stations, ["highPercent", "lowPercent"])),
  };
}

/** These keys of an item as the other list has them, there or not. */
function put<T extends { id: string }, K extends keyof T>(
  item: T,
  list: readonly Pick<T, K | "id">[],
  keys: readonly K[],
): T {
  const other = list.find((x) => x.id === item.id);
  if (!other) return item;
  const next = { ...item };
  for (const key of keys) {
    if (other[key] === undefined) delete next[key];
    else next[key] = other[key];
  }
  return next;
}
