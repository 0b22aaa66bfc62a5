import { guarded } from "@/server/auth/guard";
import { ofStation } from "@/server/auth/params";
import { stationMornings } from "@/server/services/mornings";

export const GET = guarded("viewer", { params: ofStation }, ({ user, params }) =>
  stationMornings(user, params.siteId, params.stationId),
);
