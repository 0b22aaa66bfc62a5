import { dutyNoted } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { noteDutyDone, siteDue } from "@/server/services/duties";

/** What is to be done anew at a site, each with its day. */
export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => siteDue(user, params.siteId));
export const POST = guarded("technician", { params: ofSite, body: dutyNoted }, ({ user, params, body }) =>
  noteDutyDone(user, params.siteId, body, new Date()),
);
