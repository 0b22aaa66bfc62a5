import { guarded } from "@/server/auth/guard";
import { ofSession } from "@/server/auth/params";
import { endOwnSession } from "@/server/services/account";

export const DELETE = guarded("viewer", { params: ofSession }, ({ user, params }) =>
  endOwnSession(user, params.sessionId),
);
