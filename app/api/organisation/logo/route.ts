import { MOST_LOGO_BYTES } from "@/contracts/logo";
import { bodyBytes, guarded } from "@/server/auth/guard";
import { changeLogo, LOGO_TOO_LARGE, logoStands, takeLogoOut } from "@/server/services/logo";

/** Whether the organisation has a logo. */
export const GET = guarded("viewer", {}, async ({ user }) => ({ logo: await logoStands(user) }));
/** The picture as it is. */
export const POST = guarded("manager", {}, async ({ user, request }) => ({
  logo: await changeLogo(user, await bodyBytes(request, MOST_LOGO_BYTES, LOGO_TOO_LARGE)),
}));
export const DELETE = guarded("manager", {}, async ({ user }) => ({ logo: await takeLogoOut(user) }));
