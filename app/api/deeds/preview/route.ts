import { previewRequest } from "@/contracts/deeds";
import { guarded } from "@/server/auth/guard";
import { previewMany } from "@/server/services/deeds";

export const POST = guarded("technician", { body: previewRequest }, async ({ user, body }) => ({
  sites: await previewMany(user, body, new Date()),
}));
