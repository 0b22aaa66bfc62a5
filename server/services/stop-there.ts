import type { SignedIn } from "../auth/session.ts";
import { insertOrder } from "../db/controller-orders.ts";
import { tell } from "../db/listen.ts";
import { FIELD_ORDERS } from "../field/correspondence.ts";

const WITHIN_MS = 24 * 3_600_000;

/** Has a site's controllers end whatever they do, as soon as they hear of it. */
export async function stopThere(user: SignedIn, siteId: string): Promise<void> {
  await insertOrder({
    id: crypto.randomUUID(),
    organisationId: user.organisationId,
    siteId,
    what: { kind: "stop" },
    userId: user.userId,
    expiresAt: new Date(Date.now() + WITHIN_MS),
  });
  await tell(FIELD_ORDERS, { siteId });
}
