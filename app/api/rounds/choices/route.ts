import { guarded } from "@/server/auth/guard";
import { roundsChoices } from "@/server/services/rounds";

/** What sites may be found by on Rounds. */
export const GET = guarded("viewer", {}, async ({ user }) => ({ choices: await roundsChoices(user) }));
