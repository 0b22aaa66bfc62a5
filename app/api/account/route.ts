import { accountChange } from "@/contracts/people";
import { fromOf } from "@/server/auth/address";
import { guarded } from "@/server/auth/guard";
import { accountView, changePassword, likeTheme, readDatesIn, rename } from "@/server/services/account";
import { leave } from "@/server/services/people";

export const GET = guarded("viewer", {}, ({ user }) => accountView(user));
export const PATCH = guarded("viewer", { body: accountChange }, ({ user, body, request }) => {
  if ("theme" in body) return likeTheme(user, body.theme);
  if ("language" in body) return readDatesIn(user, body.language);
  return "name" in body ? rename(user, body.name) : changePassword(user, body, fromOf(request));
});
export const DELETE = guarded("viewer", {}, ({ user }) => leave(user, user.userId));
