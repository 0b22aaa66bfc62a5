import type { KeptProfile, Profile } from "../../core/profiles/profile.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { dropProfile, keepProfile, lockProfile, profilesOf } from "../db/profiles.ts";
import { unchangedSince } from "../db/seen.ts";
import { isUuid } from "../uuid.ts";
import { audited } from "./audited.ts";

/** The organisation's own kinds of controller. */
export async function profiles(user: SignedIn): Promise<KeptProfile[]> {
  return profilesOf(user.organisationId);
}

/** @param seen when the one of that name that the writer saw was kept; null: they saw none */
export async function describeProfile(
  user: SignedIn,
  profile: Profile,
  seen: string | null = null,
): Promise<KeptProfile[]> {
  await inTransaction(async () => {
    unchangedSince(await lockProfile(user.organisationId, profile.name), seen, profile.name);
    await keepProfile(user.organisationId, user.userId, profile);
  });
  return profiles(user);
}

export async function forgetProfile(user: SignedIn, id: string): Promise<KeptProfile[]> {
  const name = isUuid(id) ? await dropProfile(user.organisationId, id) : null;
  if (name === null) throw new AppError("notFound", "There is no such profile in your organisation.");
  await audited(user, "deletedProfile", name);
  return profiles(user);
}
