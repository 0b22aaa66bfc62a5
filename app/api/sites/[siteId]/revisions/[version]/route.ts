import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofRevision } from "@/server/auth/params";
import { restoreRevision } from "@/server/services/sites";

const body = z.strictObject({ baseVersion: z.number().int().min(1) });

/** Puts the revision back, as a new one. */
export const POST = guarded(
  "manager",
  { params: ofRevision, body },
  async ({ user, params, body: { baseVersion } }) => {
    const saved = await restoreRevision(user, params.siteId, params.version, baseVersion);
    return { version: saved.version, file: saved.file, changes: saved.changes };
  },
);
