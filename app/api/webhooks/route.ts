import { webhookRequest } from "@/contracts/telling";
import { guarded } from "@/server/auth/guard";
import { addWebhook } from "@/server/services/telling";

export const POST = guarded("manager", { body: webhookRequest }, ({ user, body }) => addWebhook(user, body.url));
