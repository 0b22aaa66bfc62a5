import { guarded } from "@/server/auth/guard";
import { ofDeleted } from "@/server/auth/params";
import { fileOfDeletedSite } from "@/server/services/site-end";

export const GET = guarded("manager", { params: ofDeleted }, async ({ user, params }) => {
  const { name, text } = await fileOfDeletedSite(user, params.deletedId);
  return new Response(text, {
    headers: { "content-type": "application/json", "content-disposition": `attachment; filename="${name}"` },
  });
});
