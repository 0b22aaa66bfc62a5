import { outsideRequest } from "@/contracts/learning";
import { bodyJson, guarded } from "@/server/auth/guard";
import { proposeFromOutside } from "@/server/services/proposals";

/** Flows from a list, a recorder's log or a stopwatch, as proposals. */
export const POST = guarded<{ siteId: string }>("technician", async ({ user, params, request }) =>
  proposeFromOutside(user, params.siteId, outsideRequest.parse(await bodyJson(request))),
);
