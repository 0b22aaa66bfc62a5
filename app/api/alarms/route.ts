import { clearManyRequest } from "@/contracts/alarms";
import { guarded } from "@/server/auth/guard";
import { alarmList, clearMany } from "@/server/services/alarms";
import { filterOf, pageOf } from "./filter";

/** A page of the alarms over all sites of the organisation. */
export const GET = guarded("viewer", {}, ({ user, request }) => alarmList(user, filterOf(request), pageOf(request)));

/** Clears several that have one cause. */
export const POST = guarded("technician", { body: clearManyRequest }, ({ user, body }) => clearMany(user, body));
