import { erasing, keeping } from "@/contracts/organisation";
import { guarded } from "@/server/auth/guard";
import { erase, keepFor, organisationView } from "@/server/services/organisation";

export const GET = guarded("manager", {}, ({ user }) => organisationView(user));
export const PATCH = guarded("manager", { body: keeping }, ({ user, body }) => keepFor(user, body));
export const DELETE = guarded("manager", { body: erasing }, ({ user, body }) => erase(user, body));
