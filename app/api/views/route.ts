import { keepViewRequest } from "@/contracts/views";
import { guarded } from "@/server/auth/guard";
import { savedViews, saveView } from "@/server/services/views";

export const GET = guarded("viewer", {}, async ({ user }) => ({ items: await savedViews(user) }));

export const POST = guarded("viewer", { body: keepViewRequest }, async ({ user, body }) => ({
  items: await saveView(user, body),
}));
