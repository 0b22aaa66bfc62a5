import { timelineQuery } from "@/contracts/timeline";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { timeline } from "@/server/services/timeline";

/** What happened at a site, month by month. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params, request }) =>
  timeline(user, params.siteId, timelineQuery.parse(Object.fromEntries(new URL(request.url).searchParams)), new Date()),
);
