import { waterQuery } from "@/contracts/water";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { waterUsed } from "@/server/services/water";

/** Water that a site used, by day or month and by what its address asks. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params, request }) =>
  waterUsed(user, params.siteId, waterQuery.parse(Object.fromEntries(new URL(request.url).searchParams)), new Date()),
);
