/** Sites that were ticked on one page and are gone on with on the next; in memory only, until they are taken. */
let sites: ReadonlySet<string> = new Set();

export function handOver(siteIds: ReadonlySet<string>): void {
  sites = new Set(siteIds);
}

export const handedOver = (): ReadonlySet<string> => sites;
