import { z } from "zod";
import { timeZoneSchema } from "@/core/dates/date-schema";
import { bodyText, guarded } from "@/server/auth/guard";
import { AppError } from "@/server/app-error";
import { siteList } from "@/server/services/rounds";
import { createFrom, createSite, importSite } from "@/server/services/sites";

const fromNothing = z.strictObject({
  create: z.strictObject({
    name: z.string().trim().min(1).max(200),
    timeZone: z.string().min(1).max(80),
    units: z.enum(["us", "metric"]),
  }),
});

const fromAnother = z.strictObject({
  pattern: z.strictObject({
    from: z.guid(),
    name: z.string().trim().min(1).max(200),
    timeZone: timeZoneSchema,
  }),
});
/** Bodies that ask for a site, told from a whole site file by the word they begin with. */
const ASKS = /^\s*\{\s*"(create|pattern)"/;

/** Sites by name. */
export const GET = guarded("viewer", {}, ({ user }) => siteList(user));

/** `{ create: { name, … } }` for a site from nothing, `{ pattern: { from, … } }` for one begun from another; any other body is a whole site file. Sent twice under one idempotency key, one site comes of it. */
export const POST = guarded("technician", {}, async ({ user, request }) => {
  const text = await bodyText(request);
  const key = request.headers.get("idempotency-key");
  const asks = ASKS.exec(text)?.[1];
  if (asks) {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      throw new AppError("badRequest", "The request body is not JSON.");
    }
    const site =
      asks === "create"
        ? await createSite(user, fromNothing.parse(value).create, key)
        : await createFrom(user, fromAnother.parse(value).pattern, key);
    return { id: site.id };
  }
  return { id: (await importSite(user, text, key)).id };
});
