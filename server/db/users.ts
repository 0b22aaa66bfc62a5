import { z } from "zod";
import { type Language, language, type Role, role, type Theme, theme } from "../../contracts/people.ts";
import { db } from "./connection.ts";
import { asAnyone, asOperator } from "./reach.ts";

const userRow = z.object({
  id: z.string(),
  organisationId: z.string(),
  email: z.string(),
  name: z.string(),
  role,
  passwordHash: z.string(),
  /** They see the sites that are given to them, and no others. */
  ownSitesOnly: z.boolean(),
  /** Null: whatever their browser has. */
  theme: theme.nullable(),
  language: language.nullable(),
});
export type UserRow = z.infer<typeof userRow>;

export async function userByEmail(email: string): Promise<UserRow | null> {
  const row: unknown = await asOperator(() => db()("app_user").where({ email: email.trim().toLowerCase() }).first());
  return row ? userRow.parse(row) : null;
}

export async function userById(id: string): Promise<UserRow | null> {
  const row: unknown = await asOperator(() => db()("app_user").where({ id }).first());
  return row ? userRow.parse(row) : null;
}

/** A session that began longer ago is worth nothing: its cookie has run out, s. */
export const SESSION_LASTS_S = 60 * 60 * 24 * 14;

/** Where a session is used: the address, and what the browser says of itself. */
export type From = { address: string; agent: string | null };

/** Begins a session of a user; the answer is its id. */
export async function beginSession(user: Pick<UserRow, "id" | "organisationId">, from?: From): Promise<string> {
  const { address = null, agent = null } = from ?? {};
  const row = { organisationId: user.organisationId, userId: user.id, address, agent: agent?.slice(0, 300) ?? null };
  const [made] = await asOperator(() => db()("session").insert(row).returning("id"));
  return made.id;
}

/** That a session is in use, so that its list tells when it was last. */
export async function sessionSeen(sessionId: string): Promise<void> {
  await asOperator(() => db()("session").where({ id: sessionId }).update({ seenAt: new Date() }));
}

/** Whose session it is; null once it has ended. */
export async function userOfSession(sessionId: string): Promise<UserRow | null> {
  const { rows } = await asAnyone(() => db().raw("select * from user_of_session(?)", [sessionId]));
  const row: unknown = rows[0];
  return row ? userRow.parse(row) : null;
}

/** Whether a session was ended; one that never was, or only ran out, was not. */
export async function wasEnded(sessionId: string): Promise<boolean> {
  const { rows } = await asAnyone(() => db().raw("select session_was_ended(?) as ended", [sessionId]));
  return z.object({ ended: z.boolean() }).parse(rows[0]).ended;
}

export async function endSession(sessionId: string): Promise<void> {
  await asOperator(() => db()("session").where({ id: sessionId }).whereNull("endedAt").update({ endedAt: new Date() }));
}

/** Ends every session of a user, as after another password; the answer names them. */
export async function endSessionsOf(userId: string): Promise<string[]> {
  const rows: { id: string }[] = await asOperator(() =>
    db()("session").where({ userId }).whereNull("endedAt").update({ endedAt: new Date() }).returning("id"),
  );
  return rows.map((r) => r.id);
}

/** The same for everyone of an organisation. */
export async function endSessionsOfOrganisation(organisationId: string): Promise<string[]> {
  const rows: { id: string }[] = await asOperator(() =>
    db()("session").where({ organisationId }).whereNull("endedAt").update({ endedAt: new Date() }).returning("id"),
  );
  return rows.map((r) => r.id);
}

export async function insertOrganisation(name: string): Promise<string> {
  const [row] = await db()("organisation").insert({ name }).returning("id");
  return row.id;
}

export async function insertUser(user: {
  organisationId: string;
  email: string;
  name: string;
  role: Role;
  passwordHash: string;
}): Promise<string> {
  const [row] = await db()("app_user")
    .insert({
      organisationId: user.organisationId,
      email: user.email.toLowerCase(),
      name: user.name,
      role: user.role,
      passwordHash: user.passwordHash,
    })
    .returning("id");
  return row.id;
}

export async function setName(id: string, name: string): Promise<void> {
  await asOperator(() => db()("app_user").where({ id }).update({ name }));
}

export async function setTheme(id: string, liked: Theme): Promise<void> {
  await asOperator(() => db()("app_user").where({ id }).update({ theme: liked }));
}

export async function setLanguage(id: string, read: Language): Promise<void> {
  await asOperator(() => db()("app_user").where({ id }).update({ language: read }));
}

export async function setPassword(id: string, passwordHash: string): Promise<void> {
  await asOperator(() => db()("app_user").where({ id }).update({ passwordHash }));
}

/** A manager sees all sites, whatever they saw before. */
export async function setRole(id: string, to: Role): Promise<void> {
  const all = to === "manager" ? { ownSitesOnly: false } : {};
  await asOperator(() =>
    db()("app_user")
      .where({ id })
      .update({ role: to, ...all }),
  );
}

/** They have left: nobody signs in as them any more, and their address is free. */
export async function setLeft({ id, email }: Pick<UserRow, "id" | "email">): Promise<void> {
  const left = { leftAt: new Date(), formerEmail: email, email: `${id}@left.invalid`, passwordHash: "" };
  await asOperator(() => db()("app_user").where({ id }).update(left));
}

/** Somebody who is there, locked until the transaction ends together with the managers, so that of two who go one stays; and how many managers there are. */
export async function lockPerson(
  organisationId: string,
  id: string,
): Promise<{ person: UserRow | null; managers: number }> {
  const rows: unknown[] = await asOperator(() =>
    db()("app_user")
      .where({ organisationId })
      .whereNull("leftAt")
      .where((on) => on.where({ id }).orWhere({ role: "manager" }))
      .orderBy("id")
      .forUpdate(),
  );
  const people = rows.map((r) => userRow.parse(r));
  return {
    person: people.find((p) => p.id === id) ?? null,
    managers: people.filter((p) => p.role === "manager").length,
  };
}

export async function organisationCount(): Promise<number> {
  const row = await db()("organisation").count({ n: "*" }).first();
  return Number(row?.n ?? 0);
}

/** People of an organisation, by name: whom something can be assigned to. Who has left is none of them. */
export async function colleagues(organisationId: string): Promise<{ id: string; name: string; role: Role }[]> {
  const rows: unknown[] = await db()("app_user")
    .where({ organisationId })
    .whereNull("leftAt")
    .orderBy("name")
    .select("id", "name", "role");
  return z.array(userRow.pick({ id: true, name: true, role: true })).parse(rows);
}
