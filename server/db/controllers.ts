import { z } from "zod";
import type { Send } from "../../contracts/controllers.ts";
import { type HoldsMessage, takenMessage, type TakenMessage } from "../../core/field/orders.ts";
import type { SettingDifference } from "../../core/settings/compare.ts";
import type { ControllerSettings } from "../../core/settings/settings-of.ts";
import { db, inTransaction } from "./connection.ts";

const iso = z.date().transform((d) => d.toISOString());
const sendRow = z.object({
  id: z.string(),
  controllerId: z.string(),
  number: z.number(),
  version: z.number(),
  state: z.enum(["waiting", "sent", "taken", "partly", "failed", "overtaken"]),
  reason: z.string().nullable(),
  items: takenMessage.shape.items,
  askedByName: z.string(),
  askedAt: iso,
  sentAt: iso.nullable(),
  answeredAt: iso.nullable(),
});
const sends = () =>
  db()("controller_send as s")
    .join("app_user as u", "u.id", "s.asked_by")
    .select(
      "s.id",
      "s.controller_id",
      "s.number",
      "s.version",
      "s.state",
      "s.reason",
      "s.items",
      "s.asked_at",
      "s.sent_at",
      "s.answered_at",
      "u.name as asked_by_name",
    );

/** Newest first. */
export async function sendsOf(siteId: string, limit: number): Promise<Send[]> {
  return z.array(sendRow).parse(await sends().where("s.site_id", siteId).orderBy("s.number", "desc").limit(limit));
}

const settings = z.custom<ControllerSettings>();
/** What was last sent to each controller and taken, whole or in part, as it was sent; and what of it the controller holds otherwise, by item. */
export type LastSent = { settings: ControllerSettings; fell: Record<string, string> };
export async function lastSent(siteId: string): Promise<Map<string, LastSent>> {
  const rows: unknown[] = await db()("controller_send")
    .distinctOn("controller_id")
    .where({ siteId })
    .whereIn("state", ["taken", "partly"])
    .orderBy([{ column: "controller_id" }, { column: "number", order: "desc" }])
    .select("controller_id", "settings", "items");
  const parsed = z.array(z.object({ controllerId: z.string(), settings, items: takenMessage.shape.items })).parse(rows);
  return new Map(
    parsed.map((r) => [
      r.controllerId,
      {
        settings: r.settings,
        fell: Object.fromEntries(r.items.flatMap((i) => (i.outcome === "taken" ? [] : [[i.path, i.value]]))),
      },
    ]),
  );
}

/** Puts settings on their way; what still waits for the same controller is overtaken. The site's row is locked by the caller. */
export async function insertSend(row: {
  organisationId: string;
  siteId: string;
  controllerId: string;
  version: number;
  settings: ControllerSettings;
  checksum: string;
  userId: string;
}): Promise<string> {
  const { userId, settings: sent, ...rest } = row;
  await db()("controller_send")
    .where({ siteId: row.siteId, controllerId: row.controllerId })
    .whereIn("state", ["waiting", "sent"])
    .update({ state: "overtaken", answeredAt: db().fn.now() });
  const [made] = await db()("controller_send")
    .insert({
      ...rest,
      settings: JSON.stringify(sent),
      askedBy: userId,
      number: db().raw("(select coalesce(max(number), 0) + 1 from controller_send where site_id = ?)", [row.siteId]),
    })
    .returning("id");
  return made.id;
}

const onItsWay = z.object({
  id: z.string(),
  siteId: z.string(),
  controllerId: z.string(),
  number: z.number(),
  checksum: z.string(),
  settings: z.record(z.string(), z.unknown()),
  askedAt: z.date(),
});
/** Settings of these sites that are not answered, in order of their numbers. */
export async function openSends(siteIds: readonly string[]): Promise<z.infer<typeof onItsWay>[]> {
  const rows: unknown[] = await db()("controller_send")
    .whereIn("site_id", siteIds)
    .whereIn("state", ["waiting", "sent"])
    .orderBy("number");
  return z.array(onItsWay).parse(rows);
}

export async function markSent(id: string): Promise<void> {
  await db()("controller_send").where({ id, state: "waiting" }).update({ state: "sent", sentAt: db().fn.now() });
}

/** What became of a send. @returns whether it was waited for */
export async function answerSend(siteId: string, taken: TakenMessage): Promise<boolean> {
  const state = { taken: "taken", partly: "partly", refused: "failed" }[taken.outcome];
  return inTransaction(async () => {
    const done = await db()("controller_send")
      .where({ siteId, controllerId: taken.controllerId, number: taken.number })
      .whereIn("state", ["waiting", "sent", "overtaken"])
      .update({
        state,
        reason: taken.reason ?? null,
        items: JSON.stringify(taken.items),
        answeredAt: db().fn.now(),
        sentAt: db().raw("coalesce(sent_at, now())"),
      });
    // What was compared before is of before it was known what became of this.
    await db()("controller_holds")
      .where({ siteId, controllerId: taken.controllerId })
      .update({ comparedVersion: null, news: db().raw("news + 1") });
    return done === 1;
  });
}

const holdsRow = z.object({
  siteId: z.string(),
  controllerId: z.string(),
  readAt: iso,
  number: z.number(),
  checksum: z.string(),
  settings,
  byHandAt: iso.nullable(),
  clockOffS: z.number(),
  lockouts: z.array(z.string()),
  differences: z.array(z.custom<SettingDifference>()),
  comparedVersion: z.number().nullable(),
  news: z.number(),
});
export type HoldsRow = z.infer<typeof holdsRow>;

export async function holdsOf(siteId: string): Promise<HoldsRow[]> {
  return z.array(holdsRow).parse(await db()("controller_holds").where({ siteId }).orderBy("controller_id"));
}

/** What a controller says that it holds; what that differs from is to be compared ({@link keepCompared}). */
export async function keepHolds(of: { organisationId: string; siteId: string }, message: HoldsMessage): Promise<void> {
  const held = {
    readAt: db().fn.now(),
    number: message.number,
    checksum: message.checksum,
    settings: JSON.stringify(message.settings),
    byHandAt: message.byHandAt,
    clockOffS: message.clockOffS,
    lockouts: message.lockouts,
    comparedVersion: null,
  };
  await db()("controller_holds")
    .insert({ ...of, controllerId: message.controllerId, ...held })
    .onConflict(["site_id", "controller_id"])
    .merge({ ...held, news: db().raw("controller_holds.news + 1") });
}

/** What a comparison came to; not kept where the controller has said something new since it was begun. */
export async function keepCompared(
  siteId: string,
  { controllerId, news }: Pick<HoldsRow, "controllerId" | "news">,
  compared: { differences: SettingDifference[]; version: number },
): Promise<void> {
  await db()("controller_holds")
    .where({ siteId, controllerId, news })
    .update({ differences: JSON.stringify(compared.differences), comparedVersion: compared.version });
}

/** Sites with a controller that was compared with another revision than the one that stands. */
export async function comparedOld(limit: number): Promise<{ organisationId: string; siteId: string }[]> {
  return db()("controller_holds as h")
    .join("site as s", "s.id", "h.site_id")
    .whereRaw("h.compared_version is distinct from s.version")
    .distinct("h.organisation_id", "h.site_id")
    .limit(limit);
}

const noteRow = z.object({
  controllerId: z.string(),
  path: z.string(),
  ours: z.string(),
  theirs: z.string(),
  words: z.string(),
  notedByName: z.string(),
  notedAt: iso,
});
export type DifferenceNote = z.infer<typeof noteRow>;

export async function notesOf(siteId: string): Promise<DifferenceNote[]> {
  return z
    .array(noteRow)
    .parse(
      await db()("difference_note as n")
        .join("app_user as u", "u.id", "n.noted_by")
        .where("n.site_id", siteId)
        .select("n.*", "u.name as noted_by_name"),
    );
}

export async function keepNotes(
  of: { organisationId: string; siteId: string; controllerId: string; userId: string; words: string },
  differences: readonly SettingDifference[],
): Promise<void> {
  const { userId, ...rest } = of;
  await db()("difference_note")
    .insert(
      differences.map((d) => ({
        ...rest,
        path: d.path,
        ours: d.presa,
        theirs: d.controller,
        notedBy: userId,
        notedAt: db().fn.now(),
      })),
    )
    .onConflict(["site_id", "controller_id", "path"])
    .merge();
}

/** An answer of a gateway that could not be read: counted, with why. */
export async function setAside(siteId: string, words: string): Promise<void> {
  await db()("field_gateway")
    .where({ siteId })
    .update({ setAside: db().raw("set_aside + 1"), setAsideWords: words.slice(0, 300) });
}

export async function readBackHourOf(organisationId: string): Promise<string> {
  const row = await db()("organisation").where({ id: organisationId }).first("read_back_at");
  return row?.readBackAt ?? "05:00";
}

export async function setReadBackHour(organisationId: string, readBackAt: string): Promise<void> {
  await db()("organisation").where({ id: organisationId }).update({ readBackAt });
}

const readBack = z.object({
  organisationId: z.string(),
  siteId: z.string(),
  timeZone: z.string(),
  readBackAt: z.string(),
  readBackOn: z.string().nullable(),
});
/** Sites whose gateway takes orders, and for which night they were read back last. */
export async function readBackSites(): Promise<z.infer<typeof readBack>[]> {
  const { rows } = await db().raw(`
    select g.organisation_id, g.site_id, r.site_file -> 'site' ->> 'timeZone' as time_zone, o.read_back_at,
           to_char(g.read_back_on, 'YYYY-MM-DD') as read_back_on
    from field_gateway g join organisation o on o.id = g.organisation_id join site s on s.id = g.site_id
      join revision r on r.site_id = s.id and r.version = s.version
    where (g.says ->> 'version')::int >= 2`);
  return z.array(readBack).parse(rows);
}

/** @returns false where another worker has asked for this night already */
export async function markReadBack(siteId: string, date: string): Promise<boolean> {
  return (
    (await db()("field_gateway")
      .where({ siteId })
      .whereRaw("read_back_on is distinct from ?::date", [date])
      .update({ readBackOn: date })) === 1
  );
}

const lineRow = z.object({
  siteId: z.string(),
  siteName: z.string(),
  version: z.number(),
  controllerId: z.string(),
  controllerName: z.string(),
  state: z.enum(["waiting", "live", "silent", "unreachable"]).nullable(),
  heardAt: iso.nullable(),
  speaksVersion: z.number().nullable(),
  readAt: iso.nullable(),
  differences: z.array(z.custom<SettingDifference>()).nullable(),
  clockOffS: z.number().nullable(),
  send: z
    .object({
      state: sendRow.shape.state,
      askedAt: z.string().transform((at) => new Date(at).toISOString()),
      reason: z.string().nullable(),
    })
    .nullable(),
  noted: z.array(z.object({ path: z.string(), ours: z.string(), theirs: z.string() })),
});
export type LineRow = z.infer<typeof lineRow>;

/** Every controller of the organisation's sites, or of these, with what it said last and what was last sent to it. */
export async function controllerLines(organisationId: string, siteIds: string[] | null = null): Promise<LineRow[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, s.name as site_name, s.version, e.element_id as controller_id, e.name as controller_name,
            g.state, g.heard_at, (g.says ->> 'version')::int as speaks_version,
            h.read_at, h.differences, h.clock_off_s,
            (select jsonb_build_object('state', c.state, 'askedAt', c.asked_at, 'reason', c.reason) from controller_send c
              where c.site_id = s.id and c.controller_id = e.element_id order by c.number desc limit 1) as send,
            coalesce((select jsonb_agg(jsonb_build_object('path', n.path, 'ours', n.ours, 'theirs', n.theirs)) from difference_note n
              where n.site_id = s.id and n.controller_id = e.element_id), '[]') as noted
     from site s join element e on e.site_id = s.id and e.kind = 'controller' and e.present
       left join field_gateway g on g.site_id = s.id
       left join controller_holds h on h.site_id = s.id and h.controller_id = e.element_id
     where s.organisation_id = ? and s.archived_at is null and (?::uuid[] is null or s.id = any(?)) order by s.name, e.name`,
    [organisationId, siteIds, siteIds],
  );
  return z.array(lineRow).parse(rows);
}
