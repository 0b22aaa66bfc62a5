import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { saveSite } from "@/server/services/sites";

const body = z.strictObject({ baseVersion: z.number().int().min(1), file: z.unknown(), note: z.string().max(500) });

export const POST = guarded<{ siteId: string }>("technician", async ({ user, params, request }) => {
  const { baseVersion, file, note } = body.parse(await bodyJson(request));
  const saved = await saveSite(user, params.siteId, { baseVersion, file, note });
  // The file comes back, since the server enters who and when into new records.
  return { version: saved.version, changes: saved.changes, file: saved.file };
});
