import { bodyJson, guarded } from "@/server/auth/guard";
import { actOnAlarm, alarmAction } from "@/server/services/alarms";

export const POST = guarded<{ siteId: string; alarmId: string }>("technician", async ({ user, params, request }) => {
  const { alarm, site } = await actOnAlarm(
    user,
    params.siteId,
    params.alarmId,
    alarmAction.parse(await bodyJson(request)),
  );
  return { alarm, version: site.version, file: site.file };
});
