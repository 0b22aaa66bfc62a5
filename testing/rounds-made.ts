import type { RoundsQuery, RoundsRow } from "../contracts/rounds.ts";
import type { SignedIn } from "../server/auth/session.ts";
import { db } from "../server/db/connection.ts";
import { asOperator } from "../server/db/reach.ts";
import { makeRounds } from "../server/services/rounds-ahead.ts";
import { ALL_SITES, rounds } from "../server/services/rounds.ts";
import { oldNights, workOutNight } from "../server/services/nights.ts";

/** What a worker does ahead, done for one organisation as of a moment; other tests' sites are left alone. */
export async function makeAhead({ organisationId }: SignedIn, now: Date): Promise<void> {
  await asOperator(async () => {
    const ids: string[] = (await db()("site").where({ organisationId }).select("id")).map((s) => s.id);
    for (const site of await oldNights(now, ids)) {
      // The newest is shown; a test's day may be long gone.
      await db()("site_summary").where({ siteId: site.id }).delete();
      await workOutNight(site, now);
    }
    await makeRounds(organisationId, ids, now);
  });
}

/** The first page of Rounds with everything made ahead. */
export async function roundsMade(user: SignedIn, now: Date, query: Partial<RoundsQuery> = {}): Promise<RoundsRow[]> {
  await makeAhead(user, now);
  return (await rounds(user, { ...ALL_SITES, ...query }, now)).rows;
}
