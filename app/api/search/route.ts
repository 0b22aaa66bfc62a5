import { guarded } from "@/server/auth/guard";
import { search } from "@/server/services/search";

/** What is called as `q` says. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  search(user, new URL(request.url).searchParams.get("q") ?? ""),
);
