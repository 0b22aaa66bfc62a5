import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { takeSets } from "@/server/services/proposals";

const body = z.strictObject({ sets: z.array(z.array(z.string()).min(2).max(1000)).min(1).max(500) });

/** Takes the ratios of sets into the configuration. */
export const POST = guarded<{ siteId: string; runId: string }>("technician", async ({ user, params, request }) => {
  const saved = await takeSets(user, params.siteId, params.runId, body.parse(await bodyJson(request)).sets);
  return { version: saved.version, file: saved.file };
});
