import type { RoundsQuery, RoundsRow } from "../contracts/rounds.ts";
import { localDate } from "../core/dates/wall-time.ts";
import type { SignedIn } from "../server/auth/session.ts";
import { db } from "../server/db/connection.ts";
import { asOperator } from "../server/db/reach.ts";
import { makeRounds } from "../server/services/rounds-ahead.ts";
import { ALL_SITES, rounds } from "../server/services/rounds.ts";
import { nightsAtRest, workOutNight } from "../server/services/nights.ts";

/** What a worker does ahead, done for one organisation as of a moment; other tests' sites are left alone. */
export async function makeAhead({ organisationId }: SignedIn, now: Date): Promise<void> {
  await asOperator(async () => {
    // What a save began is of the real day: it must not come after what is made here.
    await nightsAtRest();
    const sites: { id: string; version: number; zone: string }[] = await db()("site as s")
      .join("revision as r", (on) => on.on("r.site_id", "s.id").andOn("r.version", "s.version"))
      .where("s.organisation_id", organisationId)
      .select("s.id", "s.version", db().raw("r.site_file -> 'site' ->> 'timeZone' as zone"));
    for (const site of sites) {
      const date = localDate(site.zone, now.getTime() / 1000);
      await db()("site_summary").where({ siteId: site.id }).whereNot({ date }).delete();
      const kept = await db()("site_summary").where({ siteId: site.id, version: site.version }).first("date");
      if (!kept) await workOutNight(organisationId, site, now);
    }
    await makeRounds(
      organisationId,
      sites.map((s) => s.id),
      now,
    );
  });
}

/** The first page of Rounds with everything made ahead. */
export async function roundsMade(user: SignedIn, now: Date, query: Partial<RoundsQuery> = {}): Promise<RoundsRow[]> {
  await makeAhead(user, now);
  return (await rounds(user, { ...ALL_SITES, ...query }, now)).rows;
}
