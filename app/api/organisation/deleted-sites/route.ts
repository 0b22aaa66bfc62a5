import { guarded } from "@/server/auth/guard";
import { sitesDeleted } from "@/server/services/site-end";

export const GET = guarded("manager", {}, ({ user }) => sitesDeleted(user));
