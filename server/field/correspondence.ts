import { OPENING } from "../../core/field/orders.ts";
import { openOrders } from "../db/controller-orders.ts";
import { holdsOf, markSent, openSends } from "../db/controllers.ts";
import type { Broker } from "./broker.ts";

/** What is not answered is said again after so long. */
const AGAIN_MS = 5000;
/** Tells recorders that something waits to be said to a site's controllers. */
export const FIELD_ORDERS = "field_orders";
/** An order's instant is told a little early: a gateway's clock may stand behind ours. */
const BEFORE_MS = 5000;

/** A gateway that takes settings and orders, heard by this process. */
export type Addressee = { siteId: string; account: string; ready: boolean };

/**
 * What Presa has to say to the gateways that this process listens to: settings on their way and orders that are not answered, said until they are. Each bears a number or an
 * id, so that saying it twice does nothing twice.
 */
export class Correspondence {
  private readonly broker: Broker;
  private readonly saidAt = new Map<string, number>();

  constructor(broker: Broker) {
    this.broker = broker;
  }

  /** Says what is not answered to those that are there. */
  async say(to: readonly Addressee[]): Promise<void> {
    const there = new Map(to.filter((a) => a.ready).map((a) => [a.siteId, a.account]));
    if (there.size === 0 || !this.broker.connected) return;
    const siteIds = [...there.keys()];
    const [sends, orders] = await Promise.all([openSends(siteIds), openOrders(siteIds)]);
    for (const s of sends) {
      if (!this.due(s.id)) continue;
      this.broker.order(
        there.get(s.siteId) ?? "",
        "settings",
        JSON.stringify({
          number: s.number,
          controllerId: s.controllerId,
          at: s.askedAt.toISOString(),
          checksum: s.checksum,
          settings: s.settings,
        }),
      );
      await markSent(s.id);
    }
    for (const o of orders) {
      if (!this.due(o.id)) continue;
      const opens = OPENING.has(o.what.kind);
      const holds = opens ? await holdsOf(o.siteId) : [];
      this.broker.order(
        there.get(o.siteId) ?? "",
        "do",
        JSON.stringify({
          id: o.id,
          at: new Date(Date.parse(o.askedAt) - BEFORE_MS).toISOString(),
          expires: o.expiresAt,
          by: o.askedByName,
          ...(opens ? { knows: Object.fromEntries(holds.map((h) => [h.controllerId, h.checksum])) } : {}),
          what: o.what,
        }),
      );
    }
    const open = new Set([...sends, ...orders].map((x) => x.id));
    for (const id of this.saidAt.keys()) if (!open.has(id)) this.saidAt.delete(id);
  }

  private due(id: string): boolean {
    const now = Date.now();
    if (now - (this.saidAt.get(id) ?? 0) < AGAIN_MS) return false;
    this.saidAt.set(id, now);
    return true;
  }
}
