import { personAction } from "@/contracts/people";
import { guarded } from "@/server/auth/guard";
import { ofPerson } from "@/server/auth/params";
import { actOnPerson, leave, sitesOfPerson } from "@/server/services/people";

export const GET = guarded("manager", { params: ofPerson }, ({ user, params }) => sitesOfPerson(user, params.personId));
export const PATCH = guarded("manager", { params: ofPerson, body: personAction }, async ({ user, params, body }) => ({
  link: await actOnPerson(user, params.personId, body, new Date()),
}));
export const DELETE = guarded("manager", { params: ofPerson }, ({ user, params }) => leave(user, params.personId));
