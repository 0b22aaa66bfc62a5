import { guarded } from "@/server/auth/guard";
import { ofProfile } from "@/server/auth/params";
import { forgetProfile } from "@/server/services/profiles";

export const DELETE = guarded("technician", { params: ofProfile }, async ({ user, params }) => ({
  items: await forgetProfile(user, params.profileId),
}));
