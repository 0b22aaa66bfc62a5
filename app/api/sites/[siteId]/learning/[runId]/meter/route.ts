import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { noteMeter } from "@/server/services/learning";

const litres = z.number().min(0).max(1e12);
const body = z.strictObject({ beforeL: litres, afterL: litres, minutes: z.number().gt(0).max(1440) });

/** A meter reading before and after the baseline test. */
export const POST = guarded<{ siteId: string; runId: string }>("technician", async ({ user, params, request }) =>
  noteMeter(user, params.siteId, params.runId, body.parse(await bodyJson(request))),
);
