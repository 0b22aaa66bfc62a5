import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { restoreRevision } from "@/server/services/sites";

const body = z.strictObject({ baseVersion: z.number().int().min(1) });

/** Puts the revision back, as a new one. */
export const POST = guarded<{ siteId: string; version: string }>("manager", async ({ user, params, request }) => {
  const version = z.coerce.number().int().min(1).max(2_000_000_000).parse(params.version);
  const { baseVersion } = body.parse(await bodyJson(request));
  const saved = await restoreRevision(user, params.siteId, version, baseVersion);
  return { version: saved.version, file: saved.file, changes: saved.changes };
});
