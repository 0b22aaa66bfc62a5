import { randomUUID } from "node:crypto";
import { z } from "zod";
import { type LetterView, LETTER_STATES, type TellingChoice } from "../../contracts/telling.ts";
import type { Letter } from "../../core/tell/letters.ts";
import { db } from "./connection.ts";

type Whose = { organisationId: string; userId: string };
const choice = z.object({
  alarms: z.boolean(),
  overdue: z.boolean(),
  fromClock: z.string(),
  toClock: z.string(),
  morningClock: z.string().nullable(),
  escalateMin: z.number().nullable(),
  timeZone: z.string(),
  groups: z.array(z.string()),
});

export async function choiceOf({ organisationId, userId }: Whose): Promise<TellingChoice | null> {
  const row: unknown = await db()("telling").where({ organisationId, userId }).first();
  return row ? choice.parse(row) : null;
}

/** From now on they are told so; what happened before is not told. */
export async function keepChoice({ organisationId, userId }: Whose, asked: TellingChoice): Promise<void> {
  await db()("telling")
    .insert({ organisationId, userId, ...asked, since: db().fn.now() })
    .onConflict("user_id")
    .merge();
}

const listener = choice.extend({ organisationId: z.string(), userId: z.string(), name: z.string(), since: z.date() });
/** Somebody who wants to be told something. */
export type Listener = z.infer<typeof listener>;

/** Everybody, of all organisations, who wants to be told something and is still there. */
export async function listeners(): Promise<Listener[]> {
  const rows: unknown[] = await db()("telling as t")
    .join("app_user as u", "u.id", "t.user_id")
    .whereNull("u.left_at")
    .select("t.*", "u.name");
  return z.array(listener).parse(rows);
}

/** Of a site `s`: that this person sees it and wants to be told of it. */
const HEARD = `s.organisation_id = :organisationId and s.archived_at is null
  and (not (select own_sites_only from app_user where id = :userId) or s.id in (select site_id from site_person where user_id = :userId))
  and (cast(:groups as uuid[]) = '{}' or s.client_id = any(:groups) or s.area_id = any(:groups) or s.crew_id = any(:groups))`;
const heardBy = ({ organisationId, userId, groups }: Listener) => ({ organisationId, userId, groups });

const alarm = z.object({
  id: z.string(),
  siteId: z.string(),
  site: z.string(),
  at: z.date(),
  message: z.string(),
  zone: z.string().nullable(),
});
export type AlarmToTell = z.infer<typeof alarm>;

/**
 * Alarms of sites themselves that this person has not been told of, oldest first.
 *
 * @param openFor only those that nobody has acknowledged for so many minutes; null: all that are not cleared
 */
export async function alarmsToTell(to: Listener, openFor: number | null): Promise<AlarmToTell[]> {
  const { rows } = await db().raw(
    `select a.id, a.site_id, s.name as site, a.at, a.message, m.facts ->> 'timeZone' as zone
     from alarm a join site s on s.id = a.site_id left join site_summary m on m.site_id = s.id
     where a.organisation_id = :organisationId and a.bench_run_id is null and a.at >= :since and ${HEARD}
       and ${openFor === null ? "a.state <> 'cleared'" : "a.state = 'open' and a.at <= now() - :openFor * interval '1 minute'"}
       and not exists (select 1 from told t where t.user_id = :userId and t.key = cast(:prefix as text) || a.id)
     order by a.at limit 200`,
    { ...heardBy(to), since: to.since, openFor: openFor ?? 0, prefix: openFor === null ? "alarm:" : "escalated:" },
  );
  return z.array(alarm).parse(rows);
}

const siteNeeds = z.object({
  siteId: z.string(),
  name: z.string(),
  openAlarms: z.number(),
  urgency: z.number(),
  reasons: z.array(z.object({ code: z.string(), words: z.string() })),
  nights: z.array(z.string()),
});
export type SiteNeeds = z.infer<typeof siteNeeds>;

/** What Rounds says of the sites that this person wants to be told of, those that need somebody most first. */
export async function needsOf(to: Listener): Promise<SiteNeeds[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, s.name, coalesce(al.open, 0) as open_alarms, coalesce(r.urgency, 0) + coalesce(al.open, 0) * 100 as urgency,
       coalesce(r.reasons, '[]') as reasons, coalesce(r.nights, '[]') as nights
     from site s left join site_round r on r.site_id = s.id
       left join (select site_id, count(*)::int as open from alarm where organisation_id = :organisationId and state <> 'cleared' group by site_id) al on al.site_id = s.id
     where ${HEARD} order by urgency desc, lower(s.name)`,
    heardBy(to),
  );
  return z.array(siteNeeds).parse(rows);
}

/** Which of these they were told already. */
export async function toldOf(userId: string, keys: string[]): Promise<Set<string>> {
  const rows: { key: string }[] = await db()("told").where({ userId }).whereIn("key", keys).select("key");
  return new Set(rows.map((r) => r.key));
}

/** @returns those that were not told before: of two who tell at once, one gets each */
export async function noteTold({ organisationId, userId }: Whose, keys: readonly string[]): Promise<Set<string>> {
  if (keys.length === 0) return new Set();
  const rows: { key: string }[] = await db()("told")
    .insert(keys.map((key) => ({ organisationId, userId, key })))
    .onConflict(["user_id", "key"])
    .ignore()
    .returning("key");
  return new Set(rows.map((r) => r.key));
}

/** Puts a letter on its way; one of that key that is there already stays the only one. */
export async function insertLetter(
  { organisationId, userId }: Whose,
  kind: string,
  key: string,
  { subject, body }: Letter,
): Promise<void> {
  await db()("letter")
    .insert({ id: randomUUID(), organisationId, userId, kind, key, subject, body })
    .onConflict(["user_id", "key"])
    .ignore();
}

/** A sheet on its way to an address that somebody said; asked again under its key, once. @returns false where it was there already */
export async function insertPaperLetter(
  { organisationId, userId }: Whose,
  key: string,
  to: string,
  { subject, body }: Letter,
  attachment: { content: Buffer; name: string },
): Promise<boolean> {
  const letter = { id: randomUUID(), organisationId, userId, kind: "paper", key, subject, body };
  const made: unknown[] = await db()("letter")
    .insert({ ...letter, toEmail: to, attachment: attachment.content, attachmentName: attachment.name })
    .onConflict(["user_id", "key"])
    .ignore()
    .returning("id");
  return made.length > 0;
}

/** How many sheets somebody sent since then. */
export async function papersSince(userId: string, since: Date): Promise<number> {
  const row = await db()("letter")
    .where({ userId, kind: "paper" })
    .where("made_at", ">", since)
    .count({ n: "*" })
    .first();
  return Number(row?.n ?? 0);
}

/** @property replyTo of a sheet: who sends it */
export type LetterToSend = {
  id: string;
  organisationId: string;
  email: string;
  replyTo: string | null;
  attachment: Buffer | null;
  attachmentName: string | null;
  subject: string;
  body: string;
  tries: number;
};
/** Takes letters whose time has come, so that nobody else sends them. Whoever has left gets none. */
export async function takeLetters(limit: number): Promise<LetterToSend[]> {
  const { rows } = await db().raw(
    `update letter l set state = 'sending', tries = l.tries + 1, tried_at = now() from app_user u
     where u.id = l.user_id and l.id in (select x.id from letter x join app_user v on v.id = x.user_id where x.state = 'waiting' and x.next_at <= now() and v.left_at is null
       order by x.next_at limit ? for update of x skip locked)
     returning l.id, l.organisation_id, coalesce(l.to_email, u.email) as email, case when l.kind = 'paper' then u.email end as reply_to,
       l.attachment, l.attachment_name, l.subject, l.body, l.tries`,
    [limit],
  );
  return rows;
}

/** @param again when it is tried again, after a problem; null: it is not */
export async function letterOutcome(id: string, problem: string | null, again: Date | null): Promise<void> {
  const notSent = again === null ? "failed" : "waiting";
  const state = problem === null ? "sent" : notSent;
  await db()("letter")
    .where({ id, state: "sending" })
    // What was sent is not kept twice.
    .update({
      state,
      problem: problem?.slice(0, 500) ?? null,
      ...(again ? { nextAt: again } : { attachment: null }),
    });
}

/** Letters that were on their way when their sender ended: whether they arrived nobody knows. */
export async function noteUnsure(): Promise<void> {
  await db().raw(
    `update letter set state = 'unsure', problem = 'Presa ended while it was on its way: it may have arrived.'
     where state = 'sending' and tried_at < now() - interval '10 minutes'`,
  );
}

const letterRow = z.object({
  id: z.string(),
  to: z.string(),
  subject: z.string(),
  madeAt: z.date().transform((d) => d.toISOString()),
  state: z.enum(LETTER_STATES),
  tries: z.number(),
  problem: z.string().nullable(),
});
const letters = (organisationId: string) =>
  db()("letter as l")
    .join("app_user as u", "u.id", "l.user_id")
    .where("l.organisation_id", organisationId)
    .orderBy("l.made_at", "desc")
    .select(
      "l.id",
      db().raw('coalesce(l.to_email, u.name) as "to"'),
      "l.subject",
      "l.made_at",
      "l.state",
      "l.tries",
      "l.problem",
    );

/** The newest to somebody. */
export async function lettersTo({ organisationId, userId }: Whose, limit: number): Promise<LetterView[]> {
  return z.array(letterRow).parse(await letters(organisationId).where("l.user_id", userId).limit(limit));
}

/** The newest to anybody that were not sent: given up, unsure, or tried in vain so far. */
export async function stuckLetters(organisationId: string, limit: number): Promise<LetterView[]> {
  const rows: unknown[] = await letters(organisationId)
    .where((q) =>
      q.whereIn("l.state", ["failed", "unsure"]).orWhere((w) => w.where("l.state", "waiting").where("l.tries", ">", 0)),
    )
    .limit(limit);
  return z.array(letterRow).parse(rows);
}

/** How many letters to try somebody was sent since then. */
export async function trialsSince({ organisationId, userId }: Whose, since: Date): Promise<number> {
  const [row] = await db()("letter")
    .where({ organisationId, userId, kind: "trial" })
    .where("made_at", ">=", since)
    .count({ n: "*" });
  return Number(row?.["n"] ?? 0);
}
