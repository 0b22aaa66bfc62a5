import { bodyJson, guarded } from "@/server/auth/guard";
import { drillBook, drillRequest, keepDrill } from "@/server/services/drills";

export const GET = guarded<{ siteId: string }>("viewer", ({ user, params }) => drillBook(user, params.siteId));
/** Everyone may practise: it changes nothing of the site. */
export const POST = guarded<{ siteId: string }>("viewer", async ({ user, params, request }) =>
  keepDrill(user, params.siteId, drillRequest.parse(await bodyJson(request))),
);
