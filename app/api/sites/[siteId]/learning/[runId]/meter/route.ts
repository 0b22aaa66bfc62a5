import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofRun } from "@/server/auth/params";
import { noteMeter } from "@/server/services/learning";

const litres = z.number().min(0).max(1e12);
const body = z.strictObject({ beforeL: litres, afterL: litres, minutes: z.number().gt(0).max(1440) });

/** A meter reading before and after the baseline test. */
export const POST = guarded("technician", { params: ofRun, body }, async ({ user, params, body }) =>
  noteMeter(user, params.siteId, params.runId, body),
);
