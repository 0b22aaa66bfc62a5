import { guarded } from "@/server/auth/guard";
import { auditList } from "@/server/services/organisation";
import { auditFilterOf } from "./filter";

export const GET = guarded("manager", {}, ({ user, request }) => auditList(user, auditFilterOf(request)));
