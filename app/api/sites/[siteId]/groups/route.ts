import { sortRequest } from "@/contracts/groups";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { sortSite } from "@/server/services/groups";

export const PATCH = guarded("manager", { params: ofSite, body: sortRequest }, ({ user, params, body }) =>
  sortSite(user, params.siteId, body),
);
