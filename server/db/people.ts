import { z } from "zod";
import { type Invitation, type Person, type Role, role, type SessionView } from "../../contracts/people.ts";
import { db } from "./connection.ts";
import { asOperator } from "./reach.ts";
import { SESSION_LASTS_S } from "./users.ts";

const instant = z.date().transform((at) => at.toISOString());
const person = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string(),
  role,
  seenAt: instant.nullable(),
  twoFactor: z.boolean(),
  sites: z.number().nullable(),
  leftAt: instant.nullable(),
});

/** Everyone of an organisation by name, those who have left last. */
export async function peopleOf(organisationId: string): Promise<Person[]> {
  const { rows } = await asOperator(() =>
    db().raw(
      `select u.id, u.name, coalesce(u.former_email, u.email) as email, u.role, u.left_at,
         exists (select from two_factor t where t.user_id = u.id and t.confirmed_at is not null) as two_factor,
         case when u.own_sites_only then (select count(*)::int from site_person p where p.user_id = u.id) end as sites,
         (select max(s.seen_at) from session s
            where s.user_id = u.id and s.ended_at is null and s.made_at > now() - ? * interval '1 second') as seen_at
       from app_user u where u.organisation_id = ? order by u.left_at is not null, u.name`,
      [SESSION_LASTS_S, organisationId],
    ),
  );
  return z.array(person).parse(rows);
}

const session = z.object({
  id: z.string(),
  madeAt: instant,
  seenAt: instant,
  address: z.string().nullable(),
  agent: z.string().nullable(),
});

/** Where somebody is signed in, the last used first. */
export async function sessionsOf(userId: string): Promise<Omit<SessionView, "here">[]> {
  const rows: unknown[] = await asOperator(() =>
    db()("session")
      .where({ userId })
      .whereNull("endedAt")
      .whereRaw("made_at > now() - ? * interval '1 second'", [SESSION_LASTS_S])
      .orderBy("seenAt", "desc"),
  );
  return z.array(session).parse(rows);
}

/** Whether a session is one of theirs that goes on. */
export async function isSessionOf(userId: string, sessionId: string): Promise<boolean> {
  const row = await asOperator(() => db()("session").where({ id: sessionId, userId }).whereNull("endedAt").first("id"));
  return row !== undefined;
}

const openInvitation = z.object({
  id: z.string(),
  email: z.string(),
  role: role.nullable(),
  madeBy: z.string(),
  madeAt: instant,
  expiresAt: instant,
});

/** Links that can still be used. */
export async function openInvitations(organisationId: string, now: Date): Promise<Invitation[]> {
  const rows: unknown[] = await asOperator(() =>
    db()("invitation as i")
      .join("app_user as u", "u.id", "i.madeBy")
      .where("i.organisationId", organisationId)
      .whereNull("i.usedAt")
      .whereNull("i.withdrawnAt")
      .where("i.expiresAt", ">", now)
      .orderBy("i.madeAt", "desc")
      .select("i.id", "i.email", "i.role", "i.madeAt", "i.expiresAt", "u.name as madeBy"),
  );
  return z.array(openInvitation).parse(rows);
}

/** A link to join, or for another password; any that was open for the same is withdrawn. */
export async function insertInvitation(of: {
  organisationId: string;
  tokenDigest: Buffer;
  email: string;
  role: Role | null;
  userId: string | null;
  madeBy: string;
  expiresAt: Date;
}): Promise<void> {
  const { organisationId, email } = of;
  await asOperator(async () => {
    await db()("invitation")
      .where({ organisationId, email })
      .whereNull("usedAt")
      .whereNull("withdrawnAt")
      .update({ withdrawnAt: new Date() });
    await db()("invitation").insert(of);
  });
}

/** @returns whose it was; null where none such is open */
export async function withdraw(organisationId: string, id: string): Promise<string | null> {
  const [row] = await asOperator(() =>
    db()("invitation")
      .where({ organisationId, id })
      .whereNull("usedAt")
      .whereNull("withdrawnAt")
      .update({ withdrawnAt: new Date() })
      .returning("email"),
  );
  return row?.email ?? null;
}

/** Whatever links somebody has that could still be used. */
export async function withdrawAllOf(userId: string): Promise<void> {
  await asOperator(() =>
    db()("invitation")
      .where({ userId })
      .whereNull("usedAt")
      .whereNull("withdrawnAt")
      .update({ withdrawnAt: new Date() }),
  );
}

const usable = z.object({
  id: z.string(),
  organisationId: z.string(),
  organisation: z.string(),
  email: z.string(),
  role: role.nullable(),
  userId: z.string().nullable(),
});
export type UsableInvitation = z.infer<typeof usable>;

/** What a link leads to, while it can be used; `lock` until the transaction ends. */
export async function invitationBy(tokenDigest: Buffer, now: Date, lock = false): Promise<UsableInvitation | null> {
  const found = await asOperator(() => {
    const query = db()("invitation as i")
      .join("organisation as o", "o.id", "i.organisationId")
      .where({ tokenDigest })
      .whereNull("i.usedAt")
      .whereNull("i.withdrawnAt")
      .where("i.expiresAt", ">", now)
      .first("i.id", "i.organisationId", "i.email", "i.role", "i.userId", "o.name as organisation");
    return lock ? query.forUpdate("i") : query;
  });
  return found ? usable.parse(found) : null;
}

export async function invitationUsed(id: string, userId: string, at: Date): Promise<void> {
  await asOperator(() => db()("invitation").where({ id }).update({ usedAt: at, userId }));
}
