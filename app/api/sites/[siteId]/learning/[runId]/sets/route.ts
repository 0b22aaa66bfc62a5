import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofRun } from "@/server/auth/params";
import { takeSets } from "@/server/services/proposals";

const body = z.strictObject({ sets: z.array(z.array(z.string()).min(2).max(1000)).min(1).max(500) });

/** Takes the ratios of sets into the configuration. */
export const POST = guarded("technician", { params: ofRun, body }, async ({ user, params, body }) => {
  const saved = await takeSets(user, params.siteId, params.runId, body.sets);
  return { version: saved.version, file: saved.file };
});
