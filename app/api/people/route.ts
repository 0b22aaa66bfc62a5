import { inviteRequest } from "@/contracts/people";
import { guarded } from "@/server/auth/guard";
import { invite, peopleView } from "@/server/services/people";

export const GET = guarded("manager", {}, ({ user }) => peopleView(user, new Date()));
export const POST = guarded("manager", { body: inviteRequest }, ({ user, body }) => invite(user, body, new Date()));
