import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { actOnAlarm } from "@/server/services/log-book";

const cause = z.string().trim().min(3, "a cause of at least three letters is needed").max(1000);
const body = z.discriminatedUnion("action", [
  z.strictObject({ action: z.literal("acknowledge") }), z.strictObject({ action: z.literal("cause"), cause }), z.strictObject({ action: z.literal("clear"), cause, repaired: z.boolean().optional() }),
]);

export const POST = guarded<{ siteId: string; alarmId: string }>("technician", async ({ user, params, request }) => {
  const { alarm, site } = await actOnAlarm(user, params.siteId, params.alarmId, body.parse(await bodyJson(request)));
  return { alarm, version: site.version, file: site.file };
});
