import { guarded } from "@/server/auth/guard";
import { exportSite } from "@/server/services/sites";

export const GET = guarded<{ siteId: string }>("viewer", async ({ user, params }) => {
  const { name, text } = await exportSite(user, params.siteId);
  return new Response(text, {
    headers: {
      "content-type": "application/json; charset=utf-8",
      "content-disposition": `attachment; filename="${name}"`,
    },
  });
});
