import type { DeletedSite } from "../../contracts/deleted-sites.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf } from "../db/field.ts";
import { asOperator } from "../db/reach.ts";
import { deletedSites, deleteWithAll, fileOfDeleted, setArchived } from "../db/site-end.ts";
import { lockSite } from "../db/sites.ts";
import { tell } from "../db/listen.ts";
import { heavy } from "../heavy/pool.ts";
import { isUuid } from "../uuid.ts";
import { audited } from "./audited.ts";
import { loadSite, siteOf } from "./sites.ts";

/** A site that is no longer worked on, or is again: it is kept with everything of it, and shown only among the archived. */
export async function archive(user: SignedIn, siteId: string, archived: boolean): Promise<{ archived: boolean }> {
  const { name } = await siteOf(user, siteId);
  if (archived) await mustHaveNoGateway(siteId, "archived");
  await inTransaction(async () => {
    await lockSite(user.organisationId, siteId);
    await setArchived(user.organisationId, siteId, archived);
    await audited(user, archived ? "archivedSite" : "broughtSiteBack", name);
  });
  return { archived };
}

export async function archiveView(user: SignedIn, siteId: string): Promise<{ archived: boolean }> {
  return { archived: (await siteOf(user, siteId)).archivedAt !== null };
}

/** What still comes in would be of nothing. */
async function mustHaveNoGateway(siteId: string, what: string): Promise<void> {
  if ((await gatewayOf(siteId)) !== null)
    throw new AppError(
      "conflict",
      `Its controllers still report here. Close its gateway's account first (Bench, Live); then it can be ${what}.`,
    );
}

/** Deletes a site for good, with its nights, alarms and readings. Its file is kept as it was, and stands under Organisation. */
export async function deleteSite(user: SignedIn, siteId: string, name: string): Promise<void> {
  const { file, version } = await loadSite(user, siteId);
  if (name.trim() !== file.site.name)
    throw new AppError("badRequest", `The name does not agree: it is ${file.site.name}. Nothing was deleted.`);
  await mustHaveNoGateway(siteId, "deleted");
  const text = await heavy(user.organisationId, "siteText", [file]);
  await inTransaction(async () => {
    const now = await lockSite(user.organisationId, siteId);
    if (!now) throw new AppError("notFound", "There is no such site in your organisation.");
    if (now.version !== version)
      throw new AppError("conflict", "Somebody saved it just now. Look at it once more. Nothing was deleted.");
    // Into tables that nobody of an organisation writes to, as into the rest.
    await asOperator(() =>
      deleteWithAll({ organisationId: user.organisationId, siteId, name: file.site.name, by: user.name }, text),
    );
    await audited(user, "deletedSite", file.site.name);
  });
  await tell(`rounds_${user.organisationId}`, { type: "rows" });
}

export const sitesDeleted = async (user: SignedIn): Promise<{ sites: DeletedSite[] }> => ({
  sites: await deletedSites(user.organisationId),
});

/** The file of a site that was deleted, as it was then. */
export async function fileOfDeletedSite(user: SignedIn, id: string): Promise<{ name: string; text: string }> {
  const found = isUuid(id) ? await fileOfDeleted(user.organisationId, id) : null;
  if (!found) throw new AppError("notFound", "No site of that id was deleted here.");
  await audited(user, "exportedSite", found.name);
  return { name: `${found.name.replace(/[^a-zA-Z0-9._-]+/g, "_")}.presa.json`, text: found.file };
}
