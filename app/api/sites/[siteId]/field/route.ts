import { bodyJson, guarded } from "@/server/auth/guard";
import { fieldStatus, gatewayRequest, setField } from "@/server/services/field";

export const GET = guarded<{ siteId: string }>("viewer", ({ user, params, request }) => fieldStatus(user, params.siteId, new URL(request.url).searchParams.get("long") === null ? 30 : 600));
export const POST = guarded<{ siteId: string }>("manager", async ({ user, params, request }) => setField(user, params.siteId, gatewayRequest.parse(await bodyJson(request))));
export const DELETE = guarded<{ siteId: string }>("manager", ({ user, params }) => setField(user, params.siteId, null));
