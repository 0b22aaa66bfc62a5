import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { siteAlong } from "@/server/services/along";

/** A site with what the jobs in the field need of it. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) =>
  siteAlong(user, params.siteId, new Date()),
);
