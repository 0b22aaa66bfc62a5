import { bodyJson, guarded } from "@/server/auth/guard";
import { fieldStatus, gatewayRequest, setField } from "@/server/services/field";

export const GET = guarded<{ siteId: string }>("viewer", ({ user, params }) => fieldStatus(user, params.siteId));
export const POST = guarded<{ siteId: string }>("manager", async ({ user, params, request }) =>
  setField(user, params.siteId, gatewayRequest.parse(await bodyJson(request))),
);
export const DELETE = guarded<{ siteId: string }>("manager", ({ user, params }) => setField(user, params.siteId, null));
