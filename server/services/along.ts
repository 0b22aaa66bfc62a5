import { ALONG_SHAPE, type Along } from "../../contracts/along.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsOfSite, entriesOf } from "../db/alarms.ts";
import { gatewayOf } from "../db/field.ts";
import { speaksOf } from "./controllers.ts";
import { dueOfFile } from "./duties.ts";
import { gatewayState } from "./field.ts";
import { loadSite } from "./sites.ts";
import { siteTodos } from "./todos.ts";
import { visitBook } from "./visits.ts";

const CLEARED_SHOWN = 10;
const ALARMS_SHOWN = 100;
/** So many of each are taken along besides what is still on. */
const PAST_SHOWN = 5;

/** A site with everything that the jobs in the field need of it, to be kept on a phone. */
export async function siteAlong(user: SignedIn, siteId: string, now: Date): Promise<Along> {
  const site = await loadSite(user, siteId);
  const [all, book, todos, { due }, gateway] = await Promise.all([
    alarmsOfSite(user.organisationId, siteId, ALARMS_SHOWN),
    visitBook(user, siteId),
    siteTodos(user, siteId),
    dueOfFile(user, siteId, site.file),
    gatewayOf(siteId),
  ]);
  const cleared = all.filter((a) => a.state === "cleared").slice(0, CLEARED_SHOWN);
  const alarms = [...all.filter((a) => a.state !== "cleared"), ...cleared];
  const stillOn = <V extends { endedAt: string | null; mine: boolean }>(list: V[]): V[] =>
    list.filter((v, i) => i < PAST_SHOWN || (v.mine && v.endedAt === null));
  return {
    shape: ALONG_SHAPE,
    siteId,
    at: now.toISOString(),
    version: site.version,
    file: site.file,
    role: user.role,
    alarms,
    entries: await entriesOf(
      user.organisationId,
      alarms.map((a) => a.id),
    ),
    people: book.people,
    visits: stillOn(book.visits),
    setup: book.setup,
    walks: stillOn(book.walks),
    todos: todos.filter((t) => t.done === null),
    due,
    gateway: gateway && { state: gatewayState(gateway), speaks: speaksOf(gateway.says?.version ?? null) },
  };
}
