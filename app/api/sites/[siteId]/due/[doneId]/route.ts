import { guarded } from "@/server/auth/guard";
import { ofDone } from "@/server/auth/params";
import { takeDutyOut } from "@/server/services/duties";

export const DELETE = guarded("technician", { params: ofDone }, ({ user, params }) =>
  takeDutyOut(user, params.siteId, params.doneId),
);
