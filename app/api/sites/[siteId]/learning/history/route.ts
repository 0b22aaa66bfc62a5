import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { stationHistory } from "@/server/services/learning";

/** Every flow figure that a station had, with who, when and how. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params, request }) =>
  stationHistory(user, params.siteId, new URL(request.url).searchParams.get("station") ?? ""),
);
