import { guarded } from "@/server/auth/guard";
import { logBook } from "@/server/services/log-book";

export const GET = guarded<{ siteId: string }>("viewer", ({ user, params }) => logBook(user, params.siteId));
