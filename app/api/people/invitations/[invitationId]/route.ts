import { guarded } from "@/server/auth/guard";
import { ofInvitation } from "@/server/auth/params";
import { withdrawInvitation } from "@/server/services/people";

export const DELETE = guarded("manager", { params: ofInvitation }, ({ user, params }) =>
  withdrawInvitation(user, params.invitationId),
);
