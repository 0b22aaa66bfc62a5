import { guarded } from "@/server/auth/guard";
import { ofView } from "@/server/auth/params";
import { forgetView } from "@/server/services/views";

export const DELETE = guarded("viewer", { params: ofView }, async ({ user, params }) => ({
  items: await forgetView(user, params.viewId),
}));
