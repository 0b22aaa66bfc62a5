import type { KeepViewRequest, SavedView } from "../../contracts/views.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { countViews, dropView, keepView, viewsOf } from "../db/views.ts";
import { isUuid } from "../uuid.ts";

/** More views than anybody finds their way among. */
const MOST = 100;

/** Somebody's own views, of all screens. */
export const savedViews = (user: SignedIn): Promise<SavedView[]> => viewsOf(user);

export async function saveView(user: SignedIn, view: KeepViewRequest): Promise<SavedView[]> {
  if ((await countViews(user)) >= MOST)
    throw new AppError("conflict", `You keep ${MOST} views already. Take out one that you no longer use.`);
  await keepView(user, view);
  return viewsOf(user);
}

export async function forgetView(user: SignedIn, id: string): Promise<SavedView[]> {
  if (!isUuid(id) || !(await dropView(user, id))) throw new AppError("notFound", "You have no such view.");
  return viewsOf(user);
}
