import { z } from "zod";
import { profileSchema } from "@/core/profiles/profile";
import { guarded } from "@/server/auth/guard";
import { describeProfile, profiles } from "@/server/services/profiles";

export const GET = guarded("viewer", {}, async ({ user }) => ({ items: await profiles(user) }));

/** `seen`: when the one of that name that was changed had been kept. */
const described = z.strictObject({ profile: profileSchema, seen: z.string().max(40).nullable().default(null) });

export const POST = guarded("technician", { body: described }, async ({ user, body: { profile, seen } }) => ({
  items: await describeProfile(user, profile, seen),
}));
