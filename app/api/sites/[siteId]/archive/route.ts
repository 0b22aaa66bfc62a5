import { archiveRequest, deleteSiteRequest } from "@/contracts/deleted-sites";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { archive, archiveView, deleteSite } from "@/server/services/site-end";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => archiveView(user, params.siteId));
/** A site that is no longer worked on, or is again. */
export const PATCH = guarded("manager", { params: ofSite, body: archiveRequest }, ({ user, params, body }) =>
  archive(user, params.siteId, body.archived),
);
/** For good. */
export const DELETE = guarded("manager", { params: ofSite, body: deleteSiteRequest }, ({ user, params, body }) =>
  deleteSite(user, params.siteId, body.name),
);
