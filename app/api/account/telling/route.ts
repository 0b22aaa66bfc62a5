import { tellingChoice } from "@/contracts/telling";
import { guarded } from "@/server/auth/guard";
import { chooseTelling, tellingView, tryLetter } from "@/server/services/telling";

/** What one is told by mail, and what one was told lately. */
export const GET = guarded("viewer", {}, ({ user }) => tellingView(user));
export const PATCH = guarded("viewer", { body: tellingChoice }, ({ user, body }) => chooseTelling(user, body));
/** A letter to try. */
export const POST = guarded("viewer", {}, ({ user }) => tryLetter(user));
