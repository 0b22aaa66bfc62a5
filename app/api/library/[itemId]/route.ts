import { guarded } from "@/server/auth/guard";
import { ofItem } from "@/server/auth/params";
import { dropDevice } from "@/server/services/library";

export const DELETE = guarded("technician", { params: ofItem }, async ({ user, params }) => ({
  items: await dropDevice(user, params.itemId),
}));
