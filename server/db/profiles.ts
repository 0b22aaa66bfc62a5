import { z } from "zod";
import { type KeptProfile, type Profile, profileSchema } from "../../core/profiles/profile.ts";
import { db } from "./connection.ts";
import type { Kept } from "./seen.ts";

const row = z.object({ id: z.string(), profile: profileSchema, keptAt: z.date() });

export async function profilesOf(organisationId: string): Promise<KeptProfile[]> {
  const rows: unknown[] = await db()("controller_profile")
    .where({ organisationId: organisationId })
    .orderBy("name")
    .select("id", "profile", "kept_at");
  return rows.map((r) => {
    const { id, profile, keptAt } = row.parse(r);
    return { ...profile, id, keptAt: keptAt.toISOString() };
  });
}

/** The profile of that name, locked until the transaction ends. */
export async function lockProfile(organisationId: string, name: string): Promise<Kept | undefined> {
  return db()("controller_profile as p")
    .join("app_user as u", "u.id", "p.kept_by")
    .where("p.organisation_id", organisationId)
    .whereRaw("lower(p.name) = lower(?)", [name])
    .forUpdate("p")
    .first("p.kept_at", "u.name as kept_by_name");
}

/** A profile of that name takes the new description and keeps its id, which sites name. */
export async function keepProfile(organisationId: string, userId: string, profile: Profile): Promise<void> {
  await db().raw(
    `insert into controller_profile (organisation_id, name, profile, kept_by) values (?, ?, ?, ?)
     on conflict (organisation_id, lower(name)) do update set name = excluded.name, profile = excluded.profile, kept_by = excluded.kept_by, kept_at = now()`,
    [organisationId, profile.name, JSON.stringify(profile), userId],
  );
}

/** The name of what was taken out; null where there was none. */
export async function dropProfile(organisationId: string, id: string): Promise<string | null> {
  const [gone] = await db()("controller_profile").where({ organisationId, id }).delete().returning("name");
  return gone?.name ?? null;
}
