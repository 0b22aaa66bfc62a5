import type { SiteFile } from "../site-file/schema.ts";

type Element = { id: string; enabled?: boolean | undefined };
const idsOff = (elements: Element[]): Set<string> =>
  new Set(elements.filter((e) => e.enabled === false).map((e) => e.id));

/** Sources, points of connection and mainlines that someone has taken out of use. */
export const outOfUse = (site: SiteFile): Set<string> => idsOff([...site.sources, ...site.pocs, ...site.mainlines]);

/**
 * The site as water finds it: a point of connection or mainline that is not enabled draws on nothing, is fed by nothing and feeds nothing
 * (site-file#additions). The same object where all are in use.
 */
export function inUse(site: SiteFile): SiteFile {
  const off = idsOff([...site.pocs, ...site.mainlines]);
  if (off.size === 0) return site;
  return {
    ...site,
    pocs: site.pocs.map((p) => (off.has(p.id) ? { ...p, sourceIds: [] } : p)),
    mainlines: site.mainlines.map((m) => ({
      ...m,
      feedIds: off.has(m.id) ? [] : m.feedIds.filter((id) => !off.has(id)),
    })),
  };
}
