import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { saveSite } from "@/server/services/sites";

const body = z.strictObject({ baseVersion: z.number().int().min(1), file: z.unknown(), note: z.string().max(500) });

export const POST = guarded("technician", { params: ofSite, body }, async ({ user, params, body }) => {
  const { baseVersion, file, note } = body;
  const saved = await saveSite(user, params.siteId, { baseVersion, file, note });
  // The file comes back, since the server enters who and when into new records.
  return { version: saved.version, changes: saved.changes, file: saved.file };
});
