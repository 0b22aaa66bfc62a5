import { visitSetup } from "@/contracts/visits";
import { guarded } from "@/server/auth/guard";
import { changeVisitSetup, visitSetup as setupOf } from "@/server/services/duties";

/** Checklists, and what is asked for by the calendar. */
export const GET = guarded("viewer", {}, ({ user }) => setupOf(user));
export const PATCH = guarded("manager", { body: visitSetup }, ({ user, body }) => changeVisitSetup(user, body));
