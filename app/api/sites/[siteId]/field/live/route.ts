import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { eventStream } from "@/server/live/channel";
import { fieldState } from "@/server/services/field";

/** What the site's gateway reads, as it is taken in, as server-sent events. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params, request }) => {
  const state = await fieldState(user, params.siteId);
  return eventStream(user, `field_${params.siteId}`, async () => ({ type: "state", state }), request.signal);
});
