import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { drillRequest } from "@/contracts/drills";
import { drillBook, keepDrill } from "@/server/services/drills";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => drillBook(user, params.siteId));
/** Everyone may practise: it changes nothing of the site. */
export const POST = guarded("viewer", { params: ofSite, body: drillRequest }, async ({ user, params, body }) =>
  keepDrill(user, params.siteId, body),
);
