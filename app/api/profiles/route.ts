import { profileSchema } from "@/core/profiles/profile";
import { guarded } from "@/server/auth/guard";
import { describeProfile, profiles } from "@/server/services/profiles";

export const GET = guarded("viewer", {}, async ({ user }) => ({ items: await profiles(user) }));

export const POST = guarded("technician", { body: profileSchema }, async ({ user, body }) => ({
  items: await describeProfile(user, body),
}));
