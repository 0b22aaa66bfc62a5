import { guarded } from "@/server/auth/guard";
import { logState } from "@/server/services/log-book";

/** What of the site's history the fittings of its pipe rest on. */
export const GET = guarded<{ siteId: string }>("viewer", ({ user, params }) => logState(user, params.siteId));
