import { guarded } from "@/server/auth/guard";
import { eventStream } from "@/server/live/channel";
import { roundsNow } from "@/server/services/rounds";

/** What every site of the organisation read last and reads now, as one stream of server-sent events. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  Promise.resolve(
    eventStream(
      user,
      `rounds_${user.organisationId}`,
      async () => ({ type: "now", sites: await roundsNow(user) }),
      request.signal,
    ),
  ),
);
