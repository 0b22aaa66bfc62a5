import { guarded } from "@/server/auth/guard";
import { stationHistory } from "@/server/services/learning";

/** Every flow figure that a station had, with who, when and how. */
export const GET = guarded<{ siteId: string }>("viewer", ({ user, params, request }) =>
  stationHistory(user, params.siteId, new URL(request.url).searchParams.get("station") ?? ""),
);
