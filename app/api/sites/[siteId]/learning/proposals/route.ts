import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { pick, takeLearned, undoTaken } from "@/server/services/proposals";

const body = z.strictObject({ action: z.enum(["take", "undo"]), picks: z.array(pick).min(1).max(10_000) });

/** Takes proposals into the configuration, or puts back what stood before. */
export const POST = guarded<{ siteId: string }>("technician", async ({ user, params, request }) => {
  const { action, picks } = body.parse(await bodyJson(request));
  const saved = await (action === "take" ? takeLearned : undoTaken)(user, params.siteId, picks);
  return { version: saved.version, file: saved.file };
});
