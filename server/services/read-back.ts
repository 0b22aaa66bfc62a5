import { localIso } from "../../core/dates/wall-time.ts";
import { insertOrder } from "../db/controller-orders.ts";
import { markReadBack, readBackSites } from "../db/controllers.ts";
import { inTransaction } from "../db/connection.ts";
import { tell } from "../db/listen.ts";
import { FIELD_ORDERS } from "../field/correspondence.ts";
import { log } from "../log.ts";

/** A gateway that is silent at the hour is asked as soon as it speaks, for the rest of the day. */
const WITHIN_MS = 20 * 3_600_000;

/** In a worker, each minute: once a night, at the organisation's hour on each site's own clock, its controllers are asked what they hold. */
export async function readBackNightly(now: Date): Promise<number> {
  let asked = 0;
  for (const site of await readBackSites()) {
    try {
      const [date, clock] = localIso(site.timeZone, Math.floor(now.getTime() / 1000)).split("T") as [string, string];
      if (clock.slice(0, 5) < site.readBackAt || site.readBackOn === date) continue;
      await inTransaction(async () => {
        if (!(await markReadBack(site.siteId, date))) return;
        asked++;
        await insertOrder({
          id: crypto.randomUUID(),
          organisationId: site.organisationId,
          siteId: site.siteId,
          what: { kind: "read" },
          userId: null,
          expiresAt: new Date(now.getTime() + WITHIN_MS),
        });
        await tell(FIELD_ORDERS, { siteId: site.siteId });
      });
    } catch (error) {
      log.warn({ err: error, site: site.siteId }, "a site was not read back");
    }
  }
  return asked;
}
