import { guarded } from "@/server/auth/guard";
import { alarmList } from "@/server/services/alarms";
import { filterOf } from "./filter";

/** Alarms over all sites of the organisation. */
export const GET = guarded("viewer", {}, ({ user, request }) => alarmList(user, filterOf(request)));
