import { guarded } from "@/server/auth/guard";
import { eventStream } from "@/server/live/channel";
import { nowOfOwnSites, roundsNow } from "@/server/services/rounds";

/** What every site of the organisation read last and reads now, as one stream of server-sent events; of those that the person sees. */
export const GET = guarded("viewer", {}, async ({ user, request }) =>
  eventStream(
    user,
    `rounds_${user.organisationId}`,
    async () => ({ type: "now", sites: await roundsNow(user) }),
    request.signal,
    user.ownSitesOnly ? await nowOfOwnSites(user) : undefined,
  ),
);
