import type { LearnThereRequest, OrderRequest, PlacedOrder } from "../../contracts/controllers.ts";
import { OPENING, type Order } from "../../core/field/orders.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { insertOrder, orderById } from "../db/controller-orders.ts";
import { holdsOf } from "../db/controllers.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf, type GatewayRow } from "../db/field.ts";
import { insertLearningRun, runOfOrder, updateLearningRun } from "../db/learning.ts";
import { tell } from "../db/listen.ts";
import { FIELD_ORDERS } from "../field/correspondence.ts";
import { heavy } from "../heavy/pool.ts";
import { audited } from "./audited.ts";
import { gatewayState } from "./field.ts";
import { onePerSite } from "./learning.ts";
import { loadSite, siteOf } from "./sites.ts";

/** A run that begins long after it was asked for finds people where it did not look for them. */
const OPENS_WITHIN_MS = 60_000;
const OTHERS_WITHIN_MS = 15 * 60_000;

/** A site whose gateway takes settings and orders; else why not. */
export async function withOrders(siteId: string): Promise<GatewayRow> {
  const gateway = await gatewayOf(siteId);
  if (!gateway?.says)
    throw new AppError("conflict", "No gateway of this site has been heard yet. Set one up on Controllers, Live.");
  if (gateway.says.version < 2)
    throw new AppError(
      "conflict",
      "This gateway only tells what it reads: it is of the first version and takes nothing.",
    );
  return gateway;
}

/** Recorders look at once, and so does whoever watches the site. */
export async function orderAsked(siteId: string): Promise<void> {
  await tell(FIELD_ORDERS, { siteId });
  await tell(`field_${siteId}`, { type: "controllers" });
}

/**
 * Asks the controllers of a site to do something, once however often it is asked under one id. What opens valves is checked against lockouts and ceilings first, is not done a
 * minute later, and only by controllers that hold what Presa knows of.
 */
export async function placeOrder(user: SignedIn, siteId: string, request: OrderRequest): Promise<PlacedOrder> {
  const { id, what } = request;
  const site = await loadSite(user, siteId);
  const gateway = await withOrders(siteId);
  const before = await orderById(siteId, id);
  if (before) return before;
  if (OPENING.has(what.kind)) {
    if (gatewayState(gateway) !== "live")
      throw new AppError(
        "conflict",
        "The gateway is silent now: nothing is opened through it. Wait until it is heard.",
      );
    const holds = await holdsOf(siteId);
    if (site.file.controllers.some((c) => !holds.some((h) => h.controllerId === c.id)))
      throw new AppError(
        "conflict",
        "Not every controller was read back yet. Read back first: nobody knows what they hold.",
      );
  }
  const problem = await heavy(user.organisationId, "orderProblem", [site.file, what]);
  if (problem) throw new AppError("badRequest", problem);
  await inTransaction(async () => {
    await ask(user, siteId, id, what);
    await audited(user, "ordered", `${what.kind}, ${site.file.site.name}`);
  });
  await orderAsked(siteId);
  return (await orderById(siteId, id)) as PlacedOrder;
}

async function ask(user: SignedIn, siteId: string, id: string, what: Order): Promise<void> {
  await insertOrder({
    id,
    organisationId: user.organisationId,
    siteId,
    what,
    userId: user.userId,
    expiresAt: new Date(Date.now() + (OPENING.has(what.kind) ? OPENS_WITHIN_MS : OTHERS_WITHIN_MS)),
  });
}

/**
 * Frees or locks at the controllers what was freed or locked here, where there are any that take it. In the caller's transaction; {@link orderAsked} once it is through.
 *
 * @returns whether anything is asked
 */
export async function lockThere(
  user: SignedIn,
  siteId: string,
  kind: "clear" | "lock",
  ids: readonly string[],
): Promise<boolean> {
  const gateway = ids.length > 0 ? await gatewayOf(siteId) : null;
  if (!gateway?.says || gateway.says.version < 2) return false;
  await ask(user, siteId, crypto.randomUUID(), { kind, ids: [...ids] });
  return true;
}

/**
 * Has a site's controllers learn, at once or from an instant on. What they read becomes results of a run like any other; nobody needs to stay connected.
 *
 * @param request `id` is the order's: the same asked again is one
 */
export async function learnThere(
  user: SignedIn,
  siteId: string,
  request: LearnThereRequest,
): Promise<{ runId: string; refused: { stationId: string; reasons: string[] }[] }> {
  const { id, stationIds, from, to } = request;
  const known = await runOfOrder(siteId, id);
  if (known) return { runId: known.id, refused: known.refused };
  const site = await loadSite(user, siteId);
  const refused = await heavy(user.organisationId, "learnRefusals", [site.file, stationIds]);
  const asked = stationIds.filter((s) => !refused.some((r) => r.stationId === s));
  if (asked.length === 0)
    throw new AppError("badRequest", "None of these stations can be learned; Learn, Before says why of each.");
  const runId = await inTransaction(async () => {
    await placeOrder(user, siteId, {
      id,
      what: { kind: "learn", stationIds: asked, ...(from ? { from } : {}), ...(to ? { to } : {}) },
    });
    return onePerSite(() =>
      insertLearningRun({
        organisationId: user.organisationId,
        siteId,
        version: site.version,
        request: { source: "controller", stationIds: asked },
        userId: user.userId,
        how: "controller",
        orderId: id,
        ...(from ? { startAt: new Date(from) } : {}),
      }),
    );
  });
  await updateLearningRun(runId, { refused: JSON.stringify(refused) });
  return { runId, refused };
}

/** Asks a site's controllers what they hold. */
export async function readBack(user: SignedIn, siteId: string): Promise<void> {
  await siteOf(user, siteId);
  await withOrders(siteId);
  await ask(user, siteId, crypto.randomUUID(), { kind: "read" });
  await orderAsked(siteId);
}
