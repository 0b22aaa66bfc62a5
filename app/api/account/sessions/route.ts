import { guarded } from "@/server/auth/guard";
import { endOtherSessions } from "@/server/services/account";

export const DELETE = guarded("viewer", {}, ({ user }) => endOtherSessions(user));
