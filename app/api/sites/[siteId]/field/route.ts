import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { fieldStatus, gatewayRequest, setField } from "@/server/services/field";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => fieldStatus(user, params.siteId));
export const POST = guarded("manager", { params: ofSite, body: gatewayRequest }, async ({ user, params, body }) =>
  setField(user, params.siteId, body),
);
export const DELETE = guarded("manager", { params: ofSite }, ({ user, params }) => setField(user, params.siteId, null));
