import type { SiteNow } from "../../contracts/rounds.ts";
import { tell } from "../db/listen.ts";
import { log } from "../log.ts";

/** What flows at an organisation's sites is told together, so often. */
const TELL_MS = 2000;
/** A word of the database holds so many sites at the most. */
const AT_ONCE = 40;

/** The newest of each site since the last word, by organisation. */
const waiting = new Map<string, Map<string, SiteNow>>();
/** A word is due: more of the same goes with it. */
let due = false;

/** Notes what a site reads now; it is told with the others of its organisation, however many there are. */
export function noteNow(organisationId: string, now: SiteNow): void {
  const sites = waiting.get(organisationId) ?? new Map<string, SiteNow>();
  sites.set(now.siteId, now);
  waiting.set(organisationId, sites);
  if (due) return;
  due = true;
  setTimeout(() => void flush(), TELL_MS).unref();
}

async function flush(): Promise<void> {
  due = false;
  const all = [...waiting];
  waiting.clear();
  for (const [organisationId, by] of all) {
    const sites = [...by.values()];
    for (let i = 0; i < sites.length; i += AT_ONCE)
      await tell(`rounds_${organisationId}`, { type: "now", sites: sites.slice(i, i + AT_ONCE) }).catch((error) =>
        log.warn({ err: error }, "what flows was not told"),
      );
  }
}
