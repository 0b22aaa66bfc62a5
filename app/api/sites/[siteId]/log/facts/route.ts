import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { logState } from "@/server/services/log-book";

/** What of the site's history the fittings of its pipe rest on. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => logState(user, params.siteId));
