import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { pick, takeLearned, undoTaken } from "@/server/services/proposals";

const body = z.strictObject({ action: z.enum(["take", "undo"]), picks: z.array(pick).min(1).max(10_000) });

/** Takes proposals into the configuration, or puts back what stood before. */
export const POST = guarded("technician", { params: ofSite, body }, async ({ user, params, body }) => {
  const { action, picks } = body;
  const saved = await (action === "take" ? takeLearned : undoTaken)(user, params.siteId, picks);
  return { version: saved.version, file: saved.file };
});
