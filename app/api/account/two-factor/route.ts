import { codeRequest, ownPassword } from "@/contracts/people";
import { fromOf } from "@/server/auth/address";
import { guarded } from "@/server/auth/guard";
import { beginTwoFactor, confirmTwoFactor, endTwoFactor } from "@/server/services/account";

export const POST = guarded("viewer", {}, ({ user }) => beginTwoFactor(user));
export const PATCH = guarded("viewer", { body: codeRequest }, ({ user, body }) =>
  confirmTwoFactor(user, body.code, new Date()),
);
export const DELETE = guarded("viewer", { body: ownPassword }, ({ user, body, request }) =>
  endTwoFactor(user, body.password, fromOf(request)),
);
