import { guarded } from "@/server/auth/guard";
import { dropDevice } from "@/server/services/library";

export const DELETE = guarded<{ itemId: string }>("technician", async ({ user, params }) => ({
  items: await dropDevice(user, params.itemId),
}));
