import { visitBegun } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { beginVisit, visitBook } from "@/server/services/visits";

/** Visits of a site, and what there is to begin another. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => visitBook(user, params.siteId));
export const POST = guarded("technician", { params: ofSite, body: visitBegun }, ({ user, params, body }) =>
  beginVisit(user, params.siteId, body, new Date()),
);
