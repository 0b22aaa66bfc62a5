import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { compare } from "@/server/services/comparison";

const number = z.coerce.number().int().min(1).max(2_000_000_000);
/** Two revisions, or another site. */
const asked = z.union([z.object({ with: z.guid() }), z.object({ from: number, to: number })]);

export const GET = guarded("viewer", { params: ofSite }, ({ user, params, request }) => {
  const what = asked.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  return compare(user, params.siteId, what.data ?? null);
});
