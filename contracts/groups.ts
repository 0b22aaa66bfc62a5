import { z } from "zod";

/** What sites are sorted by: whose they are, where, and who looks after them. */
export const GROUP_KINDS = ["client", "area", "crew"] as const;
export type GroupKind = (typeof GROUP_KINDS)[number];

export const groupName = z.string().trim().min(1, "A name is needed.").max(100, "A name has at most 100 characters.");
export type SiteGroup = { id: string; kind: GroupKind; name: string; sites: number };
/** The groups that a site is in, by name. */
export type GroupsOfSite = Record<GroupKind, string | null>;
/** The names of the groups that a site is in. */
export const groupNames = (of: GroupsOfSite): string[] => GROUP_KINDS.flatMap((kind) => of[kind] ?? []);
/** Everything that a site is found by. */
export const foundBy = (site: { name: string } & GroupsOfSite): string => [site.name, ...groupNames(site)].join(" ");
export type SortedSite = { id: string; name: string } & GroupsOfSite;
export type GroupsView = { groups: SiteGroup[]; sites: SortedSite[] };

/** Puts a site into groups by their names; a name that is new makes one, null takes the site out. */
export const sortRequest = z.strictObject({
  client: groupName.nullable().optional(),
  area: groupName.nullable().optional(),
  crew: groupName.nullable().optional(),
});
export type SortRequest = z.infer<typeof sortRequest>;
export const renameGroupRequest = z.strictObject({ name: groupName });
