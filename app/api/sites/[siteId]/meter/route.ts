import { meterEntry } from "@/contracts/meters";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { enterMeterReading, meterLogs } from "@/server/services/meters";

/** What was read of the water meters, beside their sensors. */
export const GET = guarded("viewer", { params: ofSite }, async ({ user, params }) => ({
  meters: await meterLogs(user, params.siteId),
}));
export const POST = guarded("technician", { params: ofSite, body: meterEntry }, async ({ user, params, body }) => ({
  meters: await enterMeterReading(user, params.siteId, body, new Date()),
}));
