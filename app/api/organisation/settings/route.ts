import { organisationSettings } from "@/contracts/organisation";
import { guarded } from "@/server/auth/guard";
import { changeSettings, settings } from "@/server/services/organisation";

/** The organisation's name, and what new sites begin with. */
export const GET = guarded("viewer", {}, ({ user }) => settings(user));
export const PATCH = guarded("manager", { body: organisationSettings }, ({ user, body }) => changeSettings(user, body));
