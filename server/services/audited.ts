import type { Audited } from "../../contracts/organisation.ts";
import type { SignedIn } from "../auth/session.ts";
import { audit } from "../db/audit.ts";

/** Adds to the organisation's audit what this person did; in the current transaction, so that it stands there if and only if it was done. */
export function audited(user: SignedIn, what: Audited, about = ""): Promise<void> {
  return audit({ organisationId: user.organisationId, userId: user.userId, who: user.name, what, about });
}
