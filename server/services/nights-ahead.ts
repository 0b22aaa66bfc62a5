import { keepAhead, oldAhead } from "../db/nights-ahead.ts";
import { revisionAt } from "../db/revisions.ts";
import { heavy } from "../heavy/pool.ts";
import { log } from "../log.ts";

/** So many nights after this one. */
const NIGHTS = 6;
/** So many sites at a time: whoever saves or looks does not wait for nights that are a week away. */
const AT_A_TIME = 20;

/**
 * In a worker, by the minute: works out the nights after this one of some sites that have changed, or where it is another day. Those of a site that take too long are left
 * until it changes. @returns how many sites were worked out
 */
export async function workOutAhead(): Promise<number> {
  const old = await oldAhead(AT_A_TIME);
  for (const of of old) {
    const file = (await revisionAt(of.siteId, of.version))?.siteFile;
    if (!file) continue;
    const nights = await heavy(of.organisationId, "nightsAhead", [file, of.date, NIGHTS]).catch((error) => {
      log.warn({ err: error, site: of.siteId }, "the nights ahead of a site were not worked out");
      return [];
    });
    await keepAhead(of, nights);
  }
  return old.length;
}
