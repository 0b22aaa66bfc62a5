import { deedUndo } from "@/contracts/deeds";
import { guarded } from "@/server/auth/guard";
import { ofDeed } from "@/server/auth/params";
import { undoDeed } from "@/server/services/deeds";

export const POST = guarded("technician", { params: ofDeed, body: deedUndo }, ({ user, params, body }) =>
  undoDeed(user, params.deedId, body.siteIds),
);
