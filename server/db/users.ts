import { z } from "zod";
import { db } from "./connection.ts";

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
  const row: unknown = await db()("app_user").where({ email: email.trim().toLowerCase() }).first();
  return row ? userRow.parse(row) : null;
}

export async function userById(id: string): Promise<UserRow | null> {
  const row: unknown = await db()("app_user").where({ id }).first();
  return row ? userRow.parse(row) : null;
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
