import { profileSchema } from "@/core/profiles/profile";
import { bodyJson, guarded } from "@/server/auth/guard";
import { describeProfile, profiles } from "@/server/services/profiles";

export const GET = guarded("viewer", async ({ user }) => ({ items: await profiles(user) }));

export const POST = guarded("technician", async ({ user, request }) => ({
  items: await describeProfile(user, profileSchema.parse(await bodyJson(request))),
}));
