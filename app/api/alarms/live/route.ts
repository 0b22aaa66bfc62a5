import { guarded } from "@/server/auth/guard";
import { eventStream } from "@/server/live/channel";

/** Says when something about the organisation's alarms has changed, as server-sent events. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  Promise.resolve(
    eventStream(user, `alarms_${user.organisationId}`, async () => ({ type: "watching" }), request.signal),
  ),
);
