import type { KeptProfile, Profile } from "../../core/profiles/profile.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { dropProfile, keepProfile, profilesOf } from "../db/profiles.ts";
import { isUuid } from "./sites.ts";

/** The organisation's own kinds of controller. */
export async function profiles(user: SignedIn): Promise<KeptProfile[]> {
  return profilesOf(user.organisationId);
}

export async function describeProfile(user: SignedIn, profile: Profile): Promise<KeptProfile[]> {
  await keepProfile(user.organisationId, user.userId, profile);
  return profiles(user);
}

export async function forgetProfile(user: SignedIn, id: string): Promise<KeptProfile[]> {
  if (!isUuid(id) || !(await dropProfile(user.organisationId, id)))
    throw new AppError("notFound", "There is no such profile in your organisation.");
  return profiles(user);
}
