import { z } from "zod";
import { GROUP_KINDS, type GroupKind, type SiteGroup, type SortedSite } from "../../contracts/groups.ts";
import { db } from "./connection.ts";

const group = z.object({ id: z.string(), kind: z.enum(GROUP_KINDS), name: z.string(), sites: z.number() });

/** The groups of an organisation by kind and name, with how many sites are in each: of the sites that whoever asks sees. */
export async function groupsOf(organisationId: string): Promise<SiteGroup[]> {
  const { rows } = await db().raw(
    `select g.id, g.kind, g.name, count(s.id)::int as sites from site s
       cross join lateral unnest(array[s.client_id, s.area_id, s.crew_id]) of(id) join site_group g on g.id = of.id
     where s.organisation_id = ? and s.archived_at is null group by g.id order by g.kind, lower(g.name)`,
    [organisationId],
  );
  return z.array(group).parse(rows);
}

const sorted = z.object({
  id: z.string(),
  name: z.string(),
  client: z.string().nullable(),
  area: z.string().nullable(),
  crew: z.string().nullable(),
});

/** Every site with the names of its groups, by name. */
export async function sortedSites(organisationId: string): Promise<SortedSite[]> {
  const rows: unknown[] = await db()("site as s")
    .leftJoin("site_group as c", "c.id", "s.clientId")
    .leftJoin("site_group as a", "a.id", "s.areaId")
    .leftJoin("site_group as w", "w.id", "s.crewId")
    .where("s.organisationId", organisationId)
    .whereNull("s.archivedAt")
    .orderBy("s.name")
    .select("s.id", "s.name", "c.name as client", "a.name as area", "w.name as crew");
  return z.array(sorted).parse(rows);
}

/** The group of that name, whatever its capitals; made where there is none. */
export async function groupNamed(organisationId: string, kind: GroupKind, name: string): Promise<string> {
  const { rows } = await db().raw(
    `insert into site_group (organisation_id, kind, name) values (?, ?, ?)
     on conflict (organisation_id, kind, lower(name)) do update set name = site_group.name returning id`,
    [organisationId, kind, name],
  );
  return rows[0].id;
}

export async function putInGroups(
  organisationId: string,
  siteId: string,
  groups: Partial<Record<GroupKind, string | null>>,
): Promise<void> {
  const columns = Object.fromEntries(Object.entries(groups).map(([kind, id]) => [`${kind}Id`, id]));
  if (Object.keys(columns).length > 0) await db()("site").where({ organisationId, id: siteId }).update(columns);
}

/** False where there is none such. */
export async function renameGroup(organisationId: string, id: string, name: string): Promise<boolean> {
  return (await db()("site_group").where({ organisationId, id }).update({ name })) > 0;
}

/** Groups that no site is in any more are nobody's. */
export async function dropEmptyGroups(organisationId: string): Promise<void> {
  await db().raw(
    `delete from site_group g where g.organisation_id = ? and not exists
     (select from site s where s.organisation_id = g.organisation_id and g.id in (s.client_id, s.area_id, s.crew_id))`,
    [organisationId],
  );
}

/** Which sites somebody sees; null: all; undefined: there is no such person. */
export async function sitesSeenBy(organisationId: string, userId: string): Promise<string[] | null | undefined> {
  const person = await db()("app_user").where({ organisationId, id: userId }).first("ownSitesOnly");
  if (!person) return undefined;
  if (!person.ownSitesOnly) return null;
  const rows: { siteId: string }[] = await db()("site_person").where({ organisationId, userId }).select("siteId");
  return rows.map((r) => r.siteId);
}

/** From now on they see these, or all. */
export async function setSitesSeenBy(organisationId: string, userId: string, siteIds: string[] | null): Promise<void> {
  await db()("app_user")
    .where({ organisationId, id: userId })
    .update({ ownSitesOnly: siteIds !== null });
  await db()("site_person").where({ organisationId, userId }).delete();
  if (siteIds !== null && siteIds.length > 0)
    await db()("site_person").insert(siteIds.map((siteId) => ({ organisationId, userId, siteId })));
}

/** Gives a site to somebody who sees some only, or takes it from them; and nothing where it is so already. */
export async function setSeen(
  of: { organisationId: string; userId: string; siteId: string },
  sees: boolean,
): Promise<void> {
  if (sees) await db()("site_person").insert(of).onConflict().ignore();
  else await db()("site_person").where(of).delete();
}

/** Which of these sites somebody sees who sees some only. */
export async function seenOf(userId: string, siteIds: string[]): Promise<Set<string>> {
  const rows: { siteId: string }[] = await db()("site_person")
    .where({ userId })
    .whereIn("siteId", siteIds)
    .select("siteId");
  return new Set(rows.map((r) => r.siteId));
}
