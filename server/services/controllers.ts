import type {
  AnswerRequest,
  ControllersStatus,
  ControllerStatus,
  NotedDifference,
  Speaks,
} from "../../contracts/controllers.ts";
import { INVENTED, type KeptProfile } from "../../core/profiles/profile.ts";
import type { SettingDifference } from "../../core/settings/compare.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { ordersOf } from "../db/controller-orders.ts";
import {
  comparedOld,
  type DifferenceNote,
  type HoldsRow,
  holdsOf,
  insertSend,
  keepCompared,
  keepNotes,
  lastSent,
  notesOf,
  readBackHourOf,
  sendsOf,
} from "../db/controllers.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf } from "../db/field.ts";
import { profilesOf } from "../db/profiles.ts";
import { revisionAt } from "../db/revisions.ts";
import { lockSite, siteById } from "../db/sites.ts";
import { heavy } from "../heavy/pool.ts";
import { log } from "../log.ts";
import { audited } from "./audited.ts";
import { gatewayState } from "./field.ts";
import { orderAsked, withOrders } from "./orders.ts";
import { loadSite, type LoadedSite, saveSite } from "./sites.ts";

const SENDS_SHOWN = 60;
const ORDERS_SHOWN = 60;
export const profilesFor = async (organisationId: string): Promise<KeptProfile[]> => [
  ...INVENTED,
  ...(await profilesOf(organisationId)),
];

export const speaksOf = (version: number | null): Speaks => {
  if (version === null) return "none";
  return version >= 2 ? "orders" : "listenOnly";
};

/** What the controllers of a site hold, what of it differs, what was sent and asked, newest first. */
export async function controllersStatus(user: SignedIn, siteId: string): Promise<ControllersStatus> {
  const site = await loadSite(user, siteId);
  const [gateway, holds, sends, orders, notes, readBackAt] = await Promise.all([
    gatewayOf(siteId),
    compared(user.organisationId, site),
    sendsOf(siteId, SENDS_SHOWN),
    ordersOf(siteId, ORDERS_SHOWN),
    notesOf(siteId),
    readBackHourOf(user.organisationId),
  ]);
  return {
    speaks: speaksOf(gateway?.says?.version ?? null),
    simulated: gateway?.says?.simulated ?? false,
    state: gateway ? gatewayState(gateway) : null,
    heardAt: gateway?.heardAt?.toISOString() ?? null,
    setAside: { count: gateway?.setAside ?? 0, words: gateway?.setAsideWords ?? null },
    refused: gateway?.says?.refused ?? {},
    readBackAt,
    controllers: site.file.controllers.map((c): ControllerStatus => {
      const read = holds.find((h) => h.controllerId === c.id);
      const differences = read ? withNotes(read, notes) : [];
      return {
        id: c.id,
        name: c.name,
        read: read
          ? {
              at: read.readAt,
              number: read.number,
              byHandAt: read.byHandAt,
              clockOffS: read.clockOffS,
              lockouts: read.lockouts,
              differences,
            }
          : null,
        send: sends.find((s) => s.controllerId === c.id) ?? null,
      };
    }),
    sends,
    orders,
  };
}

function withNotes(read: HoldsRow, notes: readonly DifferenceNote[]): NotedDifference[] {
  return read.differences.map((d) => {
    const note = notes.find(
      (n) =>
        n.controllerId === read.controllerId && n.path === d.path && n.ours === d.presa && n.theirs === d.controller,
    );
    return { ...d, noted: note ? { words: note.words, by: note.notedByName, at: note.notedAt } : null };
  });
}

/** What is held, with what it differs from the revision that stands: compared anew where another stood when it was compared. */
export async function compared(organisationId: string, site: LoadedSite): Promise<HoldsRow[]> {
  const holds = await holdsOf(site.id);
  const old = holds.filter((h) => h.comparedVersion !== site.version);
  if (old.length === 0) return holds;
  const [profiles, sent] = await Promise.all([profilesFor(organisationId), lastSent(site.id)]);
  const differences = await heavy(organisationId, "compareControllers", [
    site.file,
    profiles,
    old.map((h) => ({
      controllerId: h.controllerId,
      holds: h.settings,
      sent: sent.get(h.controllerId)?.settings ?? null,
      known: { fell: sent.get(h.controllerId)?.fell ?? {}, byHand: h.byHandAt !== null },
    })),
  ]);
  for (const [i, h] of old.entries()) {
    h.differences = differences[i] ?? [];
    await keepCompared(site.id, h, { differences: h.differences, version: site.version });
  }
  return holds;
}

/** In a worker: controllers of sites that were saved since they were compared. */
export async function compareOld(): Promise<number> {
  const old = await comparedOld(200);
  for (const { organisationId, siteId } of old) {
    const row = await siteById(organisationId, siteId);
    const revision = row && (await revisionAt(siteId, row.version));
    if (!revision) continue;
    await compared(organisationId, { id: siteId, version: revision.version, file: revision.siteFile }).catch((error) =>
      log.warn({ err: error, site: siteId }, "controllers were not compared"),
    );
  }
  return old.length;
}

/**
 * Puts what these controllers are to hold on its way, as it was looked at: in each controller's own steps. What is on its way to them already is overtaken.
 *
 * @param version the revision that was looked at; refused where another stands by now
 */
export async function sendSettings(
  user: SignedIn,
  siteId: string,
  request: { version: number; controllerIds: string[] },
): Promise<ControllersStatus> {
  const site = await loadSite(user, siteId);
  if (site.version !== request.version)
    throw new AppError("conflict", "The site was saved since you looked at what would change. Look again, then send.");
  const unknown = request.controllerIds.find((id) => !site.file.controllers.some((c) => c.id === id));
  if (unknown) throw new AppError("badRequest", `There is no controller "${unknown}" on this site.`);
  await withOrders(siteId);
  const profiles = await profilesFor(user.organisationId);
  const toSend = await heavy(user.organisationId, "settingsToSend", [site.file, profiles, request.controllerIds]);
  await inTransaction(async () => {
    const now = await lockSite(user.organisationId, siteId);
    if (now?.version !== request.version)
      throw new AppError(
        "conflict",
        "The site was saved since you looked at what would change. Look again, then send.",
      );
    for (const s of toSend)
      await insertSend({
        organisationId: user.organisationId,
        siteId,
        version: site.version,
        ...s,
        userId: user.userId,
      });
    await audited(user, "sentSettings", site.file.site.name);
  });
  await orderAsked(siteId);
  return controllersStatus(user, siteId);
}

/** Takes what a controller holds as ours, or leaves a difference as it is, noted. */
export async function answerDifferences(
  user: SignedIn,
  siteId: string,
  request: AnswerRequest,
): Promise<ControllersStatus> {
  const site = await loadSite(user, siteId);
  const holds = (await compared(user.organisationId, site)).find((h) => h.controllerId === request.controllerId);
  if (!holds) throw new AppError("conflict", "That controller was not read back yet.");
  const differences = holds.differences.filter((d) => request.paths.includes(d.path));
  if (differences.length < request.paths.length)
    throw new AppError("conflict", "Some of that does not differ any more. Look again.");
  if (request.answer === "leave") {
    await keepNotes(
      {
        organisationId: user.organisationId,
        siteId,
        controllerId: request.controllerId,
        userId: user.userId,
        words: request.words,
      },
      differences,
    );
  } else {
    const file = await heavy(user.organisationId, "takeItems", [site.file, holds.settings, request.paths]);
    await saveSite(user, siteId, {
      baseVersion: request.version,
      file,
      note: `Taken from the controller: ${summary(differences)}`,
    });
    await audited(user, "takenFromController", site.file.site.name);
  }
  return controllersStatus(user, siteId);
}

const summary = (differences: readonly SettingDifference[]): string =>
  differences.length === 1
    ? (differences[0]?.what ?? "")
    : `${differences[0]?.what ?? ""} and ${differences.length - 1} more`;
