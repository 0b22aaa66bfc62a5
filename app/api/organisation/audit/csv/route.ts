import { guarded } from "@/server/auth/guard";
import { auditCsv } from "@/server/services/organisation";
import { auditFilterOf } from "../filter";

export const GET = guarded(
  "manager",
  {},
  async ({ user, request }) =>
    new Response(await auditCsv(user, auditFilterOf(request)), {
      headers: {
        "content-type": "text/csv; charset=utf-8",
        "content-disposition": 'attachment; filename="audit.csv"',
      },
    }),
);
