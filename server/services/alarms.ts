import { z } from "zod";
import type { Alarm, AlarmList, ClearManyRequest } from "../../contracts/alarms.ts";
import type { ManyAsked } from "../../contracts/controllers.ts";
import type { SiteNames } from "../../contracts/rounds.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import { typeByContent } from "./kept-files.ts";
import { audited } from "./audited.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import {
  type AlarmFilter,
  alarmById,
  alarmsOfOrganisation,
  lockedByOthers,
  entriesOf,
  insertAlarmEntry,
  type NewEntry,
  photoOf,
  sitesWithAlarms,
  updateAlarm,
} from "../db/alarms.ts";
import { inTransaction } from "../db/connection.ts";
import { customsOfSites, lockSite } from "../db/sites.ts";
import { elementNames } from "../db/elements.ts";
import { colleagues } from "../db/users.ts";
import { tell } from "../db/listen.ts";
import { heavy } from "../heavy/pool.ts";
import { isUuid } from "../uuid.ts";
import { lockThere, orderAsked } from "./orders.ts";
import { amendSite, loadSite, type LoadedSite } from "./sites.ts";

export type { AlarmFilter } from "../db/alarms.ts";

const words = z.string().trim().min(1).max(4000);
const cause = z.string().trim().min(3, "a cause of at least three letters is needed").max(1000);
export const alarmAction = z.discriminatedUnion("action", [
  z.strictObject({ action: z.literal("acknowledge") }),
  z.strictObject({ action: z.literal("assign"), to: z.uuid().nullable() }),
  z.strictObject({ action: z.literal("cause"), cause }),
  z.strictObject({ action: z.literal("note"), words }),
  /** A picture as base64, at most 4 MB. */
  z.strictObject({
    action: z.literal("photo"),
    type: z.enum(["image/jpeg", "image/png", "image/webp"]),
    data: z.base64().max(5_600_000),
    words: z.string().trim().max(4000).default(""),
  }),
  z.strictObject({ action: z.literal("clear"), cause, repaired: z.boolean().optional() }),
  z.strictObject({ action: z.literal("reopen"), words }),
]);
export type AlarmAction = z.input<typeof alarmAction>;

/** Tells whoever watches the organisation's alarms that there is news; what it is they ask for. */
export async function alarmsChanged(organisationId: string): Promise<void> {
  await tell(`alarms_${organisationId}`, { type: "alarms" });
}

/** An alarm of a site as it stands. */
export async function alarmNow(user: SignedIn, siteId: string, alarmId: string): Promise<Alarm> {
  const alarm = isUuid(alarmId) && isUuid(siteId) ? await alarmById(user.organisationId, siteId, alarmId) : null;
  if (!alarm) throw new AppError("notFound", "There is no such alarm on this site.");
  return alarm;
}

/**
 * What a person does about an alarm; each leaves an entry that nobody deletes. Clearing needs a cause and frees what the alarm had locked, unless another open alarm still holds
 * it; a station that was repaired is marked so: what was learned of it before is stale. Opening it again locks again what it had locked.
 */
export async function actOnAlarm(
  user: SignedIn,
  siteId: string,
  alarmId: string,
  asked: AlarmAction,
): Promise<{ alarm: Alarm; site: LoadedSite }> {
  const act = alarmAction.parse(asked);
  const done = await inTransaction(async () => {
    // The site's row first, here as everywhere: two who act on one site come one after the other.
    if (isUuid(siteId)) await lockSite(user.organisationId, siteId);
    const alarm = await alarmNow(user, siteId, alarmId);
    mustBeOpenFor(alarm, act.action);
    const site = await carryOut(user, alarm, act, await loadSite(user, siteId));
    return { alarm: (await alarmById(user.organisationId, siteId, alarm.id)) as Alarm, site };
  });
  await alarmsChanged(user.organisationId);
  if (act.action === "clear" || act.action === "reopen") await orderAsked(siteId);
  return done;
}

/** A cleared alarm takes notes and pictures, and can be opened again; nothing else. */
function mustBeOpenFor(alarm: Alarm, action: AlarmAction["action"]): void {
  const afterwards = action === "note" || action === "photo" || action === "reopen";
  if (alarm.state === "cleared" && !afterwards)
    throw new AppError("conflict", `This alarm was cleared by ${alarm.clearedByName ?? "someone"} already.`);
  if (alarm.state === "acknowledged" && action === "acknowledge")
    throw new AppError("conflict", `${alarm.acknowledgedByName ?? "Someone"} acknowledged this alarm already.`);
  if (alarm.state !== "cleared" && action === "reopen") throw new AppError("conflict", "This alarm is open already.");
}

/** Does it to the alarm, and to the site where it frees or locks something. */
async function carryOut(
  user: SignedIn,
  alarm: Alarm,
  act: z.output<typeof alarmAction>,
  site: LoadedSite,
): Promise<LoadedSite> {
  const now = new Date();
  const entry = (action: NewEntry["action"], more: Partial<NewEntry> = {}): Promise<void> =>
    insertAlarmEntry({ organisationId: user.organisationId, alarmId: alarm.id, userId: user.userId, action, ...more });
  switch (act.action) {
    case "acknowledge":
      await updateAlarm(alarm.id, { state: "acknowledged", acknowledgedBy: user.userId, acknowledgedAt: now });
      await entry("acknowledged");
      break;
    case "assign": {
      const to = act.to === null ? null : (await colleagues(user.organisationId)).find((c) => c.id === act.to);
      if (to === undefined) throw new AppError("badRequest", "There is no such person in your organisation.");
      await updateAlarm(alarm.id, { assignedTo: to?.id ?? null });
      await entry("assigned", { words: to?.name ?? "nobody" });
      break;
    }
    case "cause":
      await updateAlarm(alarm.id, { cause: act.cause });
      await entry("cause", { words: act.cause });
      break;
    case "note":
      await entry("note", { words: act.words });
      break;
    case "photo":
      await entry("photo", { words: act.words, photo: picture(act.data, act.type), photoType: act.type });
      break;
    case "clear":
      await updateAlarm(alarm.id, {
        state: "cleared",
        cause: act.cause,
        clearedBy: user.userId,
        clearedAt: now,
        ...(alarm.acknowledgedAt ? {} : { acknowledgedBy: user.userId, acknowledgedAt: now }),
      });
      await entry("cleared", { words: act.cause });
      return freed(user, site, alarm, act.cause, act.repaired === true ? now : null);
    case "reopen":
      await updateAlarm(alarm.id, {
        state: "open",
        clearedBy: null,
        clearedAt: null,
        acknowledgedBy: null,
        acknowledgedAt: null,
      });
      await entry("reopened", { words: act.words });
      if (alarm.locked.length > 0) {
        await lockThere(user, site.id, "lock", alarm.locked);
        return amendSite(user, site.id, `Alarm opened again: ${act.words}`, (file) =>
          withLocks(file, alarm.locked, true),
        );
      }
      break;
  }
  return site;
}

async function freed(
  user: SignedIn,
  site: LoadedSite,
  alarm: Alarm,
  found: string,
  repairedAt: Date | null,
): Promise<LoadedSite> {
  const others = await lockedByOthers(user.organisationId, site.id, alarm.id);
  const free = alarm.locked.filter((id) => !others.includes(id));
  const repaired = repairedAt !== null && site.file.stations.some((s) => s.id === alarm.subjectId);
  if (free.length === 0 && !repaired) return site;
  await lockThere(user, site.id, "clear", free);
  return amendSite(user, site.id, `Alarm cleared: ${found}`, (file) => {
    const open = withLocks(file, free, false);
    return repaired
      ? {
          ...open,
          stations: open.stations.map((s) =>
            s.id === alarm.subjectId ? { ...s, repairedAt: repairedAt.toISOString() } : s,
          ),
        }
      : open;
  });
}

/** The bytes of a picture, if they begin as such a picture does. */
function picture(base64: string, type: string): Buffer {
  const bytes = Buffer.from(base64, "base64");
  if (bytes.length > 4 * 1024 * 1024)
    throw new AppError("tooLarge", "The picture is larger than 4 MB. Send a smaller one.");
  if (typeByContent(bytes) !== type) throw new AppError("badRequest", "This is not a JPEG, PNG or WebP picture.");
  return bytes;
}

export async function alarmPhoto(user: SignedIn, entryId: string): Promise<{ photo: Buffer; photoType: string }> {
  const found = isUuid(entryId) ? await photoOf(user.organisationId, entryId) : null;
  if (!found) throw new AppError("notFound", "There is no such picture.");
  return found;
}

/** What cannot be an id asks for nothing in particular. */
const asAsked = (filter: AlarmFilter): AlarmFilter => ({
  ...filter,
  siteId: filter.siteId && isUuid(filter.siteId) ? filter.siteId : undefined,
  assignedTo: filter.assignedTo && isUuid(filter.assignedTo) ? filter.assignedTo : undefined,
});

/** More lines than a table of alarms ever had. */
const MOST_IN_CSV = 200_000;

/** So many stand on a page. */
const PAGE_SIZE = 50;

/** A page of the alarms over all sites, with what was done about them. */
export async function alarmList(user: SignedIn, filter: AlarmFilter, page = 1): Promise<AlarmList> {
  const asked = asAsked(filter);
  const { alarms, found, more } = await alarmsOfOrganisation(user.organisationId, asked, {
    from: (page - 1) * PAGE_SIZE,
    count: PAGE_SIZE,
  });
  const [entries, people, customs] = await Promise.all([
    entriesOf(
      user.organisationId,
      alarms.map((a) => a.id),
    ),
    colleagues(user.organisationId),
    customsOfSites(user.organisationId, [...new Set(alarms.map((a) => a.siteId))]),
  ]);
  return {
    alarms: alarms.map((a) => ({
      ...a,
      siteUnits: customs.get(a.siteId)?.units ?? "metric",
      siteZone: customs.get(a.siteId)?.zone ?? "UTC",
    })),
    entries,
    people,
    found,
    more,
    pageSize: PAGE_SIZE,
  };
}

/** Sites that have an alarm, open or not, by name. */
export const alarmedSites = async (user: SignedIn): Promise<SiteNames> => ({
  sites: await sitesWithAlarms(user.organisationId),
});

/** Clears alarms that have one cause, each for itself; which were not, and why, is told. */
export async function clearMany(user: SignedIn, { alarms, cause, repaired }: ClearManyRequest): Promise<ManyAsked> {
  const not: string[] = [];
  for (const { siteId, alarmId } of alarms)
    await actOnAlarm(user, siteId, alarmId, { action: "clear", cause, repaired }).catch((error) => {
      if (!(error instanceof AppError)) throw error;
      not.push(error.message);
    });
  return { asked: alarms.length - not.length, not };
}

/** The same as CSV, one line an alarm; put together on a thread of its own. */
export async function alarmsCsv(user: SignedIn, filter: AlarmFilter): Promise<string> {
  await audited(user, "exportedAlarms");
  const { alarms } = await alarmsOfOrganisation(user.organisationId, asAsked(filter), { from: 0, count: MOST_IN_CSV });
  const siteIds = [...new Set(alarms.map((a) => a.siteId))];
  const [names, customs] = await Promise.all([
    elementNames(user.organisationId, siteIds, [...new Set(alarms.flatMap((a) => [a.subjectId, ...a.locked]))]),
    customsOfSites(user.organisationId, siteIds),
  ]);
  const nameOf = (siteId: string, id: string): string => names.get(siteId)?.get(id) ?? id;
  return heavy(user.organisationId, "alarmsCsv", [
    alarms.map((a) => ({
      siteName: a.siteName,
      timeZone: customs.get(a.siteId)?.zone ?? "UTC",
      at: a.at,
      kind: a.kind,
      subject: nameOf(a.siteId, a.subjectId),
      measuredLpm: a.measuredLpm,
      expectedLpm: a.expectedLpm,
      state: a.state,
      assignedTo: a.assignedToName,
      cause: a.cause,
      acknowledgedBy: a.acknowledgedByName,
      clearedBy: a.clearedByName,
      clearedAt: a.clearedAt,
      locked: a.locked.map((id) => nameOf(a.siteId, id)),
      nightLostL: a.nightLostL,
      nightUnwateredMin: a.nightUnwateredMin,
      departedMin: a.departedMin,
      departedL: a.departedL,
    })),
  ]);
}
