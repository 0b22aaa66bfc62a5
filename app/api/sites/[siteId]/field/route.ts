import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { endField, fieldStatus, setField } from "@/server/services/field";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => fieldStatus(user, params.siteId));
/** Nothing is asked for: where it connects to is the operator's. */
const nothing = z.strictObject({});
export const POST = guarded("manager", { params: ofSite, body: nothing }, async ({ user, params }) =>
  setField(user, params.siteId),
);
export const DELETE = guarded("manager", { params: ofSite }, ({ user, params }) => endField(user, params.siteId));
