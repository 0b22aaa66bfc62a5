import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { playField, playRequest } from "@/server/services/field";

export const POST = guarded("technician", { params: ofSite, body: playRequest }, async ({ user, params, body }) =>
  playField(user, params.siteId, body),
);
