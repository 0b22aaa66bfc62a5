import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { exportSite } from "@/server/services/sites";

export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => {
  const { name, text } = await exportSite(user, params.siteId);
  return new Response(text, {
    headers: {
      "content-type": "application/json; charset=utf-8",
      "content-disposition": `attachment; filename="${name}"`,
    },
  });
});
