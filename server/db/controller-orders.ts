import { z } from "zod";
import type { PlacedOrder } from "../../contracts/controllers.ts";
import { type Order, orderSchema } from "../../core/field/orders.ts";
import { db, inTransaction } from "./connection.ts";

const iso = z.date().transform((d) => d.toISOString());
const orderRow = z.object({
  id: z.string(),
  siteId: z.string(),
  what: orderSchema,
  state: z.enum(["waiting", "done", "refused", "expired"]),
  reason: z.string().nullable(),
  milliamps: z.record(z.string(), z.number()).nullable(),
  askedByName: z
    .string()
    .nullable()
    .transform((name) => name ?? "Presa, every night"),
  askedAt: iso,
  expiresAt: iso,
  answeredAt: iso.nullable(),
});
const orders = () =>
  db()("controller_order as o")
    .leftJoin("app_user as u", "u.id", "o.asked_by")
    .select("o.*", "u.name as asked_by_name");

/** Newest first. */
export async function ordersOf(siteId: string, limit: number): Promise<PlacedOrder[]> {
  return z.array(orderRow).parse(await orders().where("o.site_id", siteId).orderBy("o.asked_at", "desc").limit(limit));
}

export async function orderById(siteId: string, id: string): Promise<PlacedOrder | null> {
  const row: unknown = await orders().where({ "o.id": id, "o.site_id": siteId }).first();
  return row ? orderRow.parse(row) : null;
}

/** @returns false where that id was asked before */
export async function insertOrder(row: {
  id: string;
  organisationId: string;
  siteId: string;
  what: Order;
  userId: string | null;
  expiresAt: Date;
}): Promise<boolean> {
  const { userId, what, ...rest } = row;
  const made: unknown[] = await db()("controller_order")
    .insert({ ...rest, what: JSON.stringify(what), askedBy: userId })
    .onConflict("id")
    .ignore()
    .returning("id");
  return made.length > 0;
}

/** Orders of these sites that are not answered, oldest first. */
export async function openOrders(siteIds: readonly string[]): Promise<(PlacedOrder & { siteId: string })[]> {
  return z
    .array(orderRow)
    .parse(await orders().whereIn("o.site_id", siteIds).where("o.state", "waiting").orderBy("o.asked_at"));
}

/** @returns the order, where its answer was waited for */
export async function answerOrder(
  siteId: string,
  answer: { id: string; outcome: "done" | "refused" | "expired"; reason: string | null; milliamps: object | null },
): Promise<PlacedOrder | null> {
  return inTransaction(async () => {
    const done = await db()("controller_order")
      .where({ siteId, id: answer.id, state: "waiting" })
      .update({
        state: answer.outcome,
        reason: answer.reason,
        milliamps: answer.milliamps && JSON.stringify(answer.milliamps),
        answeredAt: db().fn.now(),
      });
    return done === 1 ? orderById(siteId, answer.id) : null;
  });
}

/** No controller of this site ever said what it holds, and none is being asked. */
export async function neverRead(siteId: string): Promise<boolean> {
  const known = await db()("controller_holds").where({ siteId }).first("controller_id");
  const asked = await db()("controller_order").where({ siteId, state: "waiting" }).first("id");
  return !known && !asked;
}
