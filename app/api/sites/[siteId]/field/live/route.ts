import { guarded } from "@/server/auth/guard";
import { eventStream } from "@/server/live/channel";
import { fieldStatus } from "@/server/services/field";

/** What the site's gateway reads, as it is taken in, as server-sent events. */
export const GET = guarded<{ siteId: string }>("viewer", async ({ user, params, request }) => {
  const status = await fieldStatus(user, params.siteId);
  return eventStream(`field_${params.siteId}`, async () => ({ type: "state", state: status.gateway?.state ?? "waiting" }), request.signal);
});
