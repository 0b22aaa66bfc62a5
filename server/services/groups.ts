import { GROUP_KINDS, type GroupKind, type GroupsView, type SortRequest } from "../../contracts/groups.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { dropEmptyGroups, groupNamed, groupsOf, putInGroups, renameGroup, sortedSites } from "../db/site-groups.ts";
import { lockSite } from "../db/sites.ts";
import { audited } from "./audited.ts";

/** By what the organisation's sites are sorted. */
export async function groupsView(user: SignedIn): Promise<GroupsView> {
  const [groups, sites] = await Promise.all([groupsOf(user.organisationId), sortedSites(user.organisationId)]);
  return { groups, sites };
}

/** Puts a site into groups by their names, or takes it out; a group that is left empty goes. */
export async function sortSite(user: SignedIn, siteId: string, asked: SortRequest): Promise<GroupsView> {
  await putSorted(user, siteId, asked);
  return groupsView(user);
}

/**
 * As {@link sortSite}, without telling how all sites are sorted then.
 *
 * @param within what is written in the same transaction
 */
export async function putSorted(
  user: SignedIn,
  siteId: string,
  asked: SortRequest,
  within?: () => Promise<void>,
): Promise<void> {
  const { organisationId } = user;
  await inTransaction(async () => {
    const site = await lockSite(organisationId, siteId);
    if (!site) throw new AppError("notFound", "There is no such site in your organisation.");
    const groups: Partial<Record<GroupKind, string | null>> = {};
    for (const kind of GROUP_KINDS) {
      const name = asked[kind];
      if (name !== undefined) groups[kind] = name === null ? null : await groupNamed(organisationId, kind, name);
    }
    await putInGroups(organisationId, siteId, groups);
    await dropEmptyGroups(organisationId);
    const words = Object.entries(asked).map(([kind, name]) => `${kind} ${name ?? "none"}`);
    await audited(user, "sortedSite", `${site.name}: ${words.join(", ")}`);
    await within?.();
  });
}

export async function giveGroupName(user: SignedIn, groupId: string, name: string): Promise<GroupsView> {
  await inTransaction(async () => {
    if (!(await renameGroup(user.organisationId, groupId, name)))
      throw new AppError("notFound", "There is no such group.");
    await audited(user, "sortedSite", `a group is called ${name}`);
  });
  return groupsView(user);
}
