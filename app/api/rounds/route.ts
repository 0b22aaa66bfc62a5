import { roundsQuery } from "@/contracts/rounds";
import { guarded } from "@/server/auth/guard";
import { rounds } from "@/server/services/rounds";

/** A page of Rounds, as its address asks. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  rounds(user, roundsQuery.parse(Object.fromEntries(new URL(request.url).searchParams)), new Date()),
);
