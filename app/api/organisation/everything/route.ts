import { guarded } from "@/server/auth/guard";
import { exportEverything } from "@/server/services/organisation";

export const GET = guarded(
  "manager",
  {},
  async ({ user }) =>
    new Response(await exportEverything(user), {
      headers: {
        "content-type": "application/gzip",
        "content-disposition": 'attachment; filename="everything.jsonl.gz"',
      },
    }),
);
