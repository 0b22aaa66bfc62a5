import { bodyJson, guarded } from "@/server/auth/guard";
import { playField, playRequest } from "@/server/services/field";

export const POST = guarded<{ siteId: string }>("technician", async ({ user, params, request }) =>
  playField(user, params.siteId, playRequest.parse(await bodyJson(request))),
);
