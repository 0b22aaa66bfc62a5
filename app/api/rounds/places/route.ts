import { roundsQuery } from "@/contracts/rounds";
import { guarded } from "@/server/auth/guard";
import { roundsPlaces } from "@/server/services/rounds";

/** Where the sites are that Rounds finds. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  roundsPlaces(user, roundsQuery.parse(Object.fromEntries(new URL(request.url).searchParams))),
);
