import { visitEntries } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { ofVisit } from "@/server/auth/params";
import { enterVisit } from "@/server/services/visits";

/** What was looked at on a visit, and its end. */
export const POST = guarded("technician", { params: ofVisit, body: visitEntries }, ({ user, params, body }) =>
  enterVisit(user, params.siteId, params.visitId, body, new Date()),
);
