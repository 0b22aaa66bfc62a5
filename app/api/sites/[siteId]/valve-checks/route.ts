import { valveCheckMade } from "@/contracts/valve-checks";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { keepValveCheck, valveChecks } from "@/server/services/valve-checks";

/** What stations drew or resisted by wire. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => ({
  checks: await valveChecks(user, params.siteId),
}));
export const POST = guarded("technician", { params: ofSite, body: valveCheckMade }, async ({ user, params, body }) => ({
  checks: await keepValveCheck(user, params.siteId, body, new Date()),
}));
