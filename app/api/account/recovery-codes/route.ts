import { ownPassword } from "@/contracts/people";
import { fromOf } from "@/server/auth/address";
import { guarded } from "@/server/auth/guard";
import { otherRecoveryCodes } from "@/server/services/account";

export const POST = guarded("viewer", { body: ownPassword }, ({ user, body, request }) =>
  otherRecoveryCodes(user, body.password, fromOf(request)),
);
