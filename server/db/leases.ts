import { z } from "zod";
import { db, inTransaction } from "./connection.ts";
import { gatewayRow, type GatewayRow } from "./field.ts";

/** A recorder that has not said for so long that it is there listens no more: others take its gateways. */
export const LEASE_S = 6;
/** What a recorder holds within a transaction is free again after so long, should it hang just then, s; a thread that it waits for may take a part of that. */
export const RECORDERS_REST_S = 8;

const counts = z.object({ recorders: z.number(), gateways: z.number() });

/**
 * Says that this recorder is there, keeps what it listens to and divides all gateways evenly among the recorders that are there: it takes what nobody listens to up to
 * its share, and lets go of what is over it.
 *
 * @param recorder an id of this process
 * @returns the gateways that are its own for the next {@link LEASE_S} seconds
 */
export async function renewLeases(recorder: string): Promise<GatewayRow[]> {
  return inTransaction(async () => {
    const until = db().raw("now() + make_interval(secs => ?)", [LEASE_S]);
    await db()("recorder").insert({ id: recorder, seenAt: db().fn.now() }).onConflict("id").merge();
    const { rows } = await db().raw(
      `select (select count(*) from recorder where seen_at > now() - make_interval(secs => ?)) as recorders,
              (select count(*) from field_gateway) as gateways`,
      [LEASE_S],
    );
    const { recorders, gateways } = counts.parse(rows[0]);
    const share = Math.ceil(gateways / Math.max(1, recorders));
    await db()("field_gateway").where({ leasedBy: recorder }).update({ leasedUntil: until });
    const mine = await mineNow(recorder);
    const over = mine.slice(share).map((g) => g.siteId);
    if (over.length > 0)
      await db()("field_gateway").whereIn("site_id", over).update({ leasedBy: null, leasedUntil: null });
    if (mine.length >= share) return mine.slice(0, share);
    await db()("field_gateway")
      .whereIn("site_id", (free) =>
        free
          .select("site_id")
          .from("field_gateway")
          .whereNull("leased_by")
          .orWhere("leased_until", "<", db().fn.now())
          .orderBy("site_id")
          .limit(share - mine.length)
          .forUpdate()
          .skipLocked(),
      )
      .update({ leasedBy: recorder, leasedUntil: until });
    return mineNow(recorder);
  }, RECORDERS_REST_S);
}

/** Lets go of everything this recorder listens to, for others to take at once. */
export async function endLeases(recorder: string): Promise<void> {
  await db()("field_gateway").where({ leasedBy: recorder }).update({ leasedBy: null, leasedUntil: null });
  await db()("recorder").where({ id: recorder }).orWhere("seen_at", "<", db().raw("now() - interval '1 day'")).delete();
}

async function mineNow(recorder: string): Promise<GatewayRow[]> {
  return z.array(gatewayRow).parse(
    await db()("field_gateway")
      .where({ leasedBy: recorder })
      .orderBy([{ column: "set_at" }, "site_id"]),
  );
}
