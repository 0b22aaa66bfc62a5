import { outsideRequest } from "@/contracts/learning";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { proposeFromOutside } from "@/server/services/proposals";

/** Flows from a list, a recorder's log or a stopwatch, as proposals. */
export const POST = guarded("technician", { params: ofSite, body: outsideRequest }, async ({ user, params, body }) =>
  proposeFromOutside(user, params.siteId, body),
);
