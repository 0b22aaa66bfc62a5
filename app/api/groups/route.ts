import { guarded } from "@/server/auth/guard";
import { groupsView } from "@/server/services/groups";

export const GET = guarded("viewer", {}, ({ user }) => groupsView(user));
