import { counterReset } from "@/contracts/meters";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { countersOf, resetCounter } from "@/server/services/meters";

/** Both counters of every flow sensor. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => ({
  counters: await countersOf(user, params.siteId),
}));
export const POST = guarded("technician", { params: ofSite, body: counterReset }, async ({ user, params, body }) => ({
  counters: await resetCounter(user, params.siteId, body, new Date()),
}));
