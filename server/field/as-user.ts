import type { SignedIn } from "../auth/session.ts";
import { userById } from "../db/users.ts";

/** Someone as they would be signed in, for what is done on their behalf; null where they are gone. */
export async function asUser(userId: string): Promise<SignedIn | null> {
  const user = await userById(userId);
  if (!user) return null;
  const { organisationId, name, email, role, ownSitesOnly } = user;
  return { userId, organisationId, name, email, role, ownSitesOnly };
}
