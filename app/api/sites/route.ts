import { z } from "zod";
import { bodyText, guarded } from "@/server/auth/guard";
import { AppError } from "@/server/app-error";
import { siteList } from "@/server/services/rounds";
import { createSite, importSite } from "@/server/services/sites";

const fromNothing = z.strictObject({
  create: z.strictObject({
    name: z.string().trim().min(1).max(200),
    timeZone: z.string().min(1).max(80),
    units: z.enum(["us", "metric"]),
  }),
});

/** Sites by name. */
export const GET = guarded("viewer", {}, ({ user }) => siteList(user));

/** `{ create: { name, … } }` for a site from nothing; any other body is a whole site file. Sent twice under one idempotency key, one site comes of it. */
export const POST = guarded("technician", {}, async ({ user, request }) => {
  const text = await bodyText(request);
  const key = request.headers.get("idempotency-key");
  if (/^\s*\{\s*"create"/.test(text)) {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      throw new AppError("badRequest", "The request body is not JSON.");
    }
    const site = await createSite(user, fromNothing.parse(value).create, key);
    return { id: site.id };
  }
  return { id: (await importSite(user, text, key)).id };
});
