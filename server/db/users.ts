import { z } from "zod";
import { db } from "./connection.ts";
import { asAnyone, asOperator } from "./reach.ts";

export const roleSchema = z.enum(["manager", "technician", "viewer"]);
export type Role = z.infer<typeof roleSchema>;
const userRow = z.object({
  id: z.string(),
  organisationId: z.string(),
  email: z.string(),
  name: z.string(),
  role: roleSchema,
  passwordHash: z.string(),
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

/** Begins a session of a user; the answer is its id. */
export async function beginSession(user: Pick<UserRow, "id" | "organisationId">): Promise<string> {
  const [row] = await asOperator(() =>
    db()("session").insert({ organisationId: user.organisationId, userId: user.id }).returning("id"),
  );
  return row.id;
}

/** Whose session it is; null once it has ended. */
export async function userOfSession(sessionId: string): Promise<UserRow | null> {
  const { rows } = await asAnyone(() => db().raw("select * from user_of_session(?)", [sessionId]));
  const row: unknown = rows[0];
  return row ? userRow.parse(row) : null;
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

export async function organisationCount(): Promise<number> {
  const row = await db()("organisation").count({ n: "*" }).first();
  return Number(row?.n ?? 0);
}

/** People of an organisation, by name: whom something can be assigned to. */
export async function colleagues(organisationId: string): Promise<{ id: string; name: string; role: Role }[]> {
  const rows: unknown[] = await db()("app_user")
    .where({ organisationId: organisationId })
    .orderBy("name")
    .select("id", "name", "role");
  return z.array(userRow.pick({ id: true, name: true, role: true })).parse(rows);
}
