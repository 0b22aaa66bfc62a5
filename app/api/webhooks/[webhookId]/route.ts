import { webhookChange } from "@/contracts/telling";
import { guarded } from "@/server/auth/guard";
import { ofWebhook } from "@/server/auth/params";
import { actOnWebhook, removeWebhook } from "@/server/services/telling";

export const PATCH = guarded("manager", { params: ofWebhook, body: webhookChange }, ({ user, params, body }) =>
  actOnWebhook(user, params.webhookId, body.action),
);
export const DELETE = guarded("manager", { params: ofWebhook }, ({ user, params }) =>
  removeWebhook(user, params.webhookId),
);
