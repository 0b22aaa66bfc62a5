import { z } from "zod";

/** A site that was deleted: what is left is its file as it was then. */
export type DeletedSite = { id: string; name: string; deletedBy: string; deletedAt: string };
export const archiveRequest = z.strictObject({ archived: z.boolean() });
/** The site's name as it stands: nobody deletes the wrong one by a slip. */
export const deleteSiteRequest = z.strictObject({ name: z.string().max(400) });
