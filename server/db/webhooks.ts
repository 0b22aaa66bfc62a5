import { randomUUID } from "node:crypto";
import { z } from "zod";
import type { WebhookView } from "../../contracts/telling.ts";
import { db } from "./connection.ts";

const iso = z.date().transform((d) => d.toISOString());
const hook = z.object({ id: z.string(), url: z.string(), enabled: z.boolean(), madeBy: z.string() });
const call = z.object({
  id: z.string(),
  webhookId: z.string(),
  event: z.string(),
  madeAt: iso,
  state: z.enum(["waiting", "done", "failed"]),
  tries: z.number(),
  nextAt: iso,
  status: z.number().nullable(),
  problem: z.string().nullable(),
});
/** So many of the newest calls of each are shown. */
const CALLS = 8;

/** An organisation's webhooks with their newest calls. */
export async function webhooksOf(organisationId: string): Promise<WebhookView[]> {
  const hooks: unknown[] = await db()("webhook as w")
    .join("app_user as u", "u.id", "w.made_by")
    .where("w.organisation_id", organisationId)
    .orderBy("w.made_at")
    .select("w.id", "w.url", "w.enabled", "u.name as made_by");
  const { rows } = await db().raw(
    `select c.id, c.webhook_id, c.body ->> 'event' as event, c.made_at, c.state, c.tries, c.next_at, c.status, c.problem
     from webhook w cross join lateral (select * from webhook_call c where c.webhook_id = w.id order by c.made_at desc limit ?) c
     where w.organisation_id = ? order by c.made_at desc`,
    [CALLS, organisationId],
  );
  const calls = z.array(call).parse(rows);
  return z
    .array(hook)
    .parse(hooks)
    .map((h) => ({ ...h, calls: calls.filter((c) => c.webhookId === h.id).map(({ webhookId: _, ...c }) => c) }));
}

export async function insertWebhook(row: {
  organisationId: string;
  url: string;
  sealedSecret: Buffer;
  userId: string;
}): Promise<void> {
  const { userId, ...rest } = row;
  await db()("webhook").insert({ id: randomUUID(), madeBy: userId, ...rest });
}

/** @returns its address; null where there is none such */
export async function dropWebhook(organisationId: string, id: string): Promise<string | null> {
  const [row] = await db()("webhook").where({ organisationId, id }).delete().returning("url");
  return row?.url ?? null;
}

/** @returns false where there is none such */
export async function turnWebhook(organisationId: string, id: string, enabled: boolean): Promise<boolean> {
  return (await db()("webhook").where({ organisationId, id }).update({ enabled })) === 1;
}

/** A call that says nothing but that it is one. @returns false where there is no such webhook */
export async function insertTrialCall(organisationId: string, webhookId: string): Promise<boolean> {
  const { rows } = await db().raw(
    `insert into webhook_call (organisation_id, webhook_id, body)
     select organisation_id, id, jsonb_build_object('event', 'trial', 'at', to_char(now() at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'))
     from webhook where organisation_id = ? and id = ? returning id`,
    [organisationId, webhookId],
  );
  return rows.length === 1;
}

/** Calls that were given up are tried once more. */
export async function callAgain(organisationId: string, webhookId: string): Promise<number> {
  return db()("webhook_call")
    .where({ organisationId, webhookId, state: "failed" })
    .update({ state: "waiting", tries: 0, nextAt: db().fn.now() });
}

export type CallToMake = {
  id: string;
  organisationId: string;
  webhookId: string;
  url: string;
  sealedSecret: Buffer;
  body: unknown;
  tries: number;
};
/** How long a call that was taken is nobody else's: longer than any takes, s. */
const TAKEN_S = 60;
/**
 * Takes calls whose time has come, one of a webhook; until their outcome is known they are due again only much later.
 *
 * @param not webhooks of which none is taken
 */
export async function takeCalls(limit: number, not: string[]): Promise<CallToMake[]> {
  const { rows } = await db().raw(
    `update webhook_call c set tries = c.tries + 1, tried_at = now(), next_at = now() + ? * interval '1 second' from webhook w
     where w.id = c.webhook_id and c.id in (select x.id from webhook_call x
       where x.state = 'waiting' and x.next_at <= now() and x.id in (
         select distinct on (y.webhook_id) y.id from webhook_call y join webhook v on v.id = y.webhook_id
         where y.state = 'waiting' and y.next_at <= now() and v.enabled and not (y.webhook_id = any(?::uuid[])) order by y.webhook_id, y.next_at, y.id)
       order by x.next_at limit ? for update skip locked)
     returning c.id, c.organisation_id, c.webhook_id, w.url, w.sealed_secret, c.body, c.tries`,
    [TAKEN_S, not, limit],
  );
  return rows;
}

export async function callOutcome(
  id: string,
  outcome: { status: number | null; problem: string | null; again: Date | null },
): Promise<void> {
  const { status, problem, again } = outcome;
  const notDone = again === null ? "failed" : "waiting";
  const state = problem === null ? "done" : notDone;
  await db()("webhook_call")
    .where({ id })
    .update({ state, status, problem: problem?.slice(0, 300) ?? null, ...(again ? { nextAt: again } : {}) });
}
