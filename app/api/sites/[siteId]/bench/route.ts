import { z } from "zod";
import { dateSchema } from "@/core/dates/date-schema";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { takeBenchNight } from "@/server/services/log-book";

const body = z.strictObject({
  date: dateSchema,
  faults: z.array(z.unknown()).max(100),
  seed: z.number().int().min(0).max(1e9),
  exact: z.boolean(),
});

/** Takes a bench night into the log. */
export const POST = guarded("technician", { params: ofSite, body }, async ({ user, params, body }) =>
  takeBenchNight(user, params.siteId, body),
);
