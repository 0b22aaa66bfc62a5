import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { logBook } from "@/server/services/log-book";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => logBook(user, params.siteId));
