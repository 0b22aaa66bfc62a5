import { guarded } from "@/server/auth/guard";
import { alarmsCsv } from "@/server/services/alarms";
import { filterOf } from "../filter";

export const GET = guarded(
  "viewer",
  {},
  async ({ user, request }) =>
    new Response(await alarmsCsv(user, filterOf(request)), {
      headers: {
        "content-type": "text/csv; charset=utf-8",
        "content-disposition": 'attachment; filename="alarms.csv"',
        "cache-control": "no-store",
      },
    }),
);
