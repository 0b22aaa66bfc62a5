import { z } from "zod";
import { type KeptProfile, type Profile, profileSchema } from "../../core/profiles/profile.ts";
import { db } from "./connection.ts";

const row = z.object({ id: z.string(), profile: profileSchema });

export async function profilesOf(organisationId: string): Promise<KeptProfile[]> {
  const rows: unknown[] = await db()("controller_profile")
    .where({ organisationId: organisationId })
    .orderBy("name")
    .select("id", "profile");
  return rows.map((r) => {
    const { id, profile } = row.parse(r);
    return { ...profile, id };
  });
}

/** A profile of that name takes the new description and keeps its id, which sites name. */
export async function keepProfile(organisationId: string, userId: string, profile: Profile): Promise<void> {
  await db().raw(
    `insert into controller_profile (organisation_id, name, profile, kept_by) values (?, ?, ?, ?)
     on conflict (organisation_id, lower(name)) do update set name = excluded.name, profile = excluded.profile, kept_by = excluded.kept_by, kept_at = now()`,
    [organisationId, profile.name, JSON.stringify(profile), userId],
  );
}

export async function dropProfile(organisationId: string, id: string): Promise<boolean> {
  return (await db()("controller_profile").where({ organisationId: organisationId, id }).delete()) > 0;
}
