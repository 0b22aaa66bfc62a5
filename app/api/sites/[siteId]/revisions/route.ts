import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { loadSite, saveSite } from "@/server/services/sites";

/** The revision in force, with its number: what one reads when told that someone saved. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => {
  const { version, file } = await loadSite(user, params.siteId);
  return { version, file };
});

const body = z.strictObject({ baseVersion: z.number().int().min(1), file: z.unknown(), note: z.string().max(500) });

export const POST = guarded("technician", { params: ofSite, body }, async ({ user, params, body }) => {
  const { baseVersion, file, note } = body;
  const saved = await saveSite(user, params.siteId, { baseVersion, file, note });
  // The file comes back, since the server enters who and when into new records.
  return { version: saved.version, changes: saved.changes, file: saved.file };
});
