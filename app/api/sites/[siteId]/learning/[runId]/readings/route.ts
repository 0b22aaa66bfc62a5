import { guarded } from "@/server/auth/guard";
import { ofRun } from "@/server/auth/params";
import { keptReadings, readingsOf } from "@/server/services/learning";

/** The readings of one station in a run, or of the whole run as CSV. */
export const GET = guarded("viewer", { params: ofRun }, async ({ user, params, request }) => {
  const station = new URL(request.url).searchParams.get("station");
  if (station !== null) return keptReadings(user, params.siteId, params.runId, station);
  return new Response(await readingsOf(user, params.siteId, params.runId), {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": 'attachment; filename="readings.csv"',
      "cache-control": "no-store",
    },
  });
});
