import { guarded } from "@/server/auth/guard";
import { forgetProfile } from "@/server/services/profiles";

export const DELETE = guarded<{ profileId: string }>("technician", async ({ user, params }) => ({
  items: await forgetProfile(user, params.profileId),
}));
