import { guarded } from "@/server/auth/guard";
import { ofAlarm } from "@/server/auth/params";
import { actOnAlarm, alarmAction } from "@/server/services/alarms";

export const POST = guarded("technician", { params: ofAlarm, body: alarmAction }, async ({ user, params, body }) => {
  const { alarm, site } = await actOnAlarm(user, params.siteId, params.alarmId, body);
  return { alarm, version: site.version, file: site.file };
});
