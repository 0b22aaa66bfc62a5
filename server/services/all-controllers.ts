import type { ControllerLine, ManyAsked } from "../../contracts/controllers.ts";
import type { LogFacts } from "../../contracts/log.ts";
import type { SettingDifference } from "../../core/settings/compare.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { controllerLines, type LineRow, readBackHourOf, setReadBackHour } from "../db/controllers.ts";
import { gatewayOf } from "../db/field.ts";
import { siteById } from "../db/sites.ts";
import { sendSettings, speaksOf } from "./controllers.ts";
import { gatewayState } from "./field.ts";
import { readBack } from "./orders.ts";

/** What the site's pipe shows of its controllers, as it was compared last; null where nobody can reach them. */
export async function controllersThere(user: SignedIn, siteId: string): Promise<LogFacts["there"]> {
  const gateway = await gatewayOf(siteId);
  if (!gateway?.says || gateway.says.version < 2) return null;
  const lines = await controllerLines(user.organisationId, [siteId]);
  const read = lines.flatMap((l) => (l.readAt === null ? [] : [l.readAt]));
  return {
    read: read.length,
    differs: lines.reduce((sum, l) => sum + openDifferences(l).length, 0),
    oldestReadAt: read.sort()[0] ?? null,
    sending: lines.some((l) => l.send?.state === "waiting" || l.send?.state === "sent"),
  };
}

/** Those that nobody has noted. */
function openDifferences({ differences, noted }: LineRow): SettingDifference[] {
  return (differences ?? []).filter(
    (d) => !noted.some((n) => n.path === d.path && n.ours === d.presa && n.theirs === d.controller),
  );
}

/** Each of these sites is tried; those that cannot be are told, and why. */
export async function readBackMany(user: SignedIn, siteIds: string[]): Promise<ManyAsked> {
  return forEach(siteIds, (siteId) => readBack(user, siteId), user);
}

export async function sendMany(
  user: SignedIn,
  sites: { siteId: string; version: number; controllerIds: string[] }[],
): Promise<ManyAsked> {
  const by = new Map(sites.map((s) => [s.siteId, s]));
  return forEach(
    sites.map((s) => s.siteId),
    async (siteId) => {
      const site = by.get(siteId);
      if (site) await sendSettings(user, siteId, site);
    },
    user,
  );
}

/** One site after the other; what is refused of one is told with its name and does not hold up the others. */
export async function forEach(
  siteIds: string[],
  work: (siteId: string) => Promise<unknown>,
  user: SignedIn,
): Promise<ManyAsked> {
  const not: string[] = [];
  for (const siteId of siteIds) {
    try {
      await work(siteId);
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      const row = await siteById(user.organisationId, siteId);
      not.push(`${row?.name ?? siteId}: ${error.message}`);
    }
  }
  return { asked: siteIds.length - not.length, not };
}

export async function setHour(user: SignedIn, readBackAt: string): Promise<{ readBackAt: string }> {
  await setReadBackHour(user.organisationId, readBackAt);
  return { readBackAt };
}

/** Every controller of every site: what differs, what is on its way, who is silent and whose clock is wrong. */
export async function allControllers(
  user: SignedIn,
): Promise<{ readBackAt: string; lines: (ControllerLine & { version: number })[] }> {
  const [lines, readBackAt] = await Promise.all([linesThere(user.organisationId), readBackHourOf(user.organisationId)]);
  return { readBackAt, lines };
}

/** The controllers of an organisation's sites as they are known: of these sites, or of all. */
export async function linesThere(
  organisationId: string,
  siteIds: string[] | null = null,
): Promise<(ControllerLine & { version: number })[]> {
  return (await controllerLines(organisationId, siteIds)).map((r) => {
    const open = openDifferences(r);
    return {
      siteId: r.siteId,
      siteName: r.siteName,
      version: r.version,
      controllerId: r.controllerId,
      controllerName: r.controllerName,
      speaks: speaksOf(r.speaksVersion),
      state:
        r.state === null ? null : gatewayState({ state: r.state, heardAt: r.heardAt ? new Date(r.heardAt) : null }),
      heardAt: r.heardAt,
      readAt: r.readAt,
      differs: r.differences === null ? null : open.length,
      byHand: open.filter((d) => d.moved === "controller" || d.moved === "both").length,
      clockOffS: r.clockOffS ?? 0,
      send: r.send,
    };
  });
}
