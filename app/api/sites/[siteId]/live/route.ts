import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { eventStream } from "@/server/live/channel";
import { loadSite } from "@/server/services/sites";

/** Says when the site's configuration was saved, by whom, as server-sent events. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params, request }) => {
  const { id, version } = await loadSite(user, params.siteId);
  return eventStream(user, `site_${id}`, async () => ({ type: "watching", version }), request.signal);
});
