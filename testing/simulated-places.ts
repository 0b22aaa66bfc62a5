import { randomUUID } from "node:crypto";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { vi } from "vitest";
import type { ControllerStatus, PlacedOrder } from "../contracts/controllers.ts";
import type { Order } from "../core/field/orders.ts";
import type { Program, SiteFile } from "../core/site-file/schema.ts";
import { type Gateway, startGateway } from "../gateway/gateway.ts";
import type { GatewayKey } from "../gateway/options.ts";
import type { SignedIn } from "../server/auth/session.ts";
import { closeDatabase, db } from "../server/db/connection.ts";
import { gatewayOf } from "../server/db/field.ts";
import { closeListening } from "../server/db/listen.ts";
import { recordGateways } from "../server/field/recorder.ts";
import { controllersStatus } from "../server/services/controllers.ts";
import { setField } from "../server/services/field.ts";
import { placeOrder, readBack } from "../server/services/orders.ts";
import { importSite, type LoadedSite, loadSite, saveSite } from "../server/services/sites.ts";
import { refusal, twoPeople } from "./server-people.ts";
import { smallSite } from "./small-site.ts";

export type Place = { site: LoadedSite; key: GatewayKey; folder: string; gateway: Gateway };

export const codeOf = async (work: Promise<unknown>): Promise<string> => (await refusal(work)).code;
export const until = <T>(what: () => Promise<T>, seconds = 30): Promise<T> =>
  vi.waitUntil(what, { timeout: seconds * 1000, interval: 100 }) as Promise<T>;

/** Places with simulated controllers behind the real broker, heard by a recorder in this process; and what one does with them. */
export async function simulatedPlaces() {
  const [maren, stranger] = await twoPeople();
  const stops: (() => Promise<void>)[] = [await recordGateways()];
  const folders: string[] = [];
  let count = 0;

  /** A small site whose program is not in use, with a gateway that plays it, read back once. */
  const place = async (change: (s: SiteFile) => void = () => {}, pace = 1): Promise<Place> => {
    const file = smallSite((s) => {
      s.site.id = `there${++count}`;
      (s.programs[0] as Program).enabled = false;
      change(s);
    });
    const site = await importSite(maren, JSON.stringify(file));
    const key = await setField(maren, site.id);
    const folder = mkdtempSync(join(tmpdir(), "presa-there-"));
    folders.push(folder);
    const from = Math.floor(Date.now() / 1000) - (pace > 1 ? 3600 : 0);
    const gateway = await startGateway({ site: site.file, key, folder, pace, from });
    stops.push(() => gateway.stop());
    await until(async () => (await gatewayOf(site.id))?.state === "live");
    await readBack(maren, site.id);
    await until(async () => (await controllersStatus(maren, site.id)).controllers[0]?.read);
    return { site, key, folder, gateway };
  };
  const controller = async (p: Place): Promise<ControllerStatus> =>
    (await controllersStatus(maren, p.site.id)).controllers[0] as ControllerStatus;
  /** Asks, and waits for what becomes of it. */
  const order = async (p: Place, what: Order, id: string = randomUUID()): Promise<PlacedOrder> => {
    await placeOrder(maren, p.site.id, { id, what });
    return until(async () => {
      const found = (await controllersStatus(maren, p.site.id)).orders.find((o) => o.id === id);
      return found && found.state !== "waiting" ? found : undefined;
    }) as Promise<PlacedOrder>;
  };
  const saved = async (p: Place, change: (s: SiteFile) => void): Promise<LoadedSite> => {
    const now = await loadSite(maren, p.site.id);
    const file = structuredClone(now.file);
    change(file);
    return saveSite(maren, p.site.id, { baseVersion: now.version, file, note: "" });
  };
  /** What came in of these types, in order. */
  const events = async (p: Place, ...types: string[]): Promise<string[]> => {
    const rows: { type: string; subjectId: string }[] = await db()("site_event")
      .where({ siteId: p.site.id })
      .whereIn("type", types)
      .orderBy(["at", "seq"])
      .select("type", "subject_id");
    return rows.map((r) => `${r.type} ${r.subjectId}`);
  };
  return {
    maren: maren as SignedIn,
    stranger: stranger as SignedIn,
    place,
    controller,
    order,
    saved,
    events,
    /** Ended with everything else, the last first. */
    atEnd: (stop: () => Promise<unknown>): void => void stops.push(async () => void (await stop())),
    end: async (): Promise<void> => {
      for (const stop of stops.reverse()) await stop().catch(() => {});
      for (const f of folders) rmSync(f, { recursive: true, force: true });
      await closeListening();
      await closeDatabase();
    },
  };
}
