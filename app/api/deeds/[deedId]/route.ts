import { deedSites } from "@/contracts/deeds";
import { guarded } from "@/server/auth/guard";
import { ofDeed } from "@/server/auth/params";
import { doDeed } from "@/server/services/deeds";

export const POST = guarded("technician", { params: ofDeed, body: deedSites }, ({ user, params, body }) =>
  doDeed(user, params.deedId, body.sites, new Date()),
);
