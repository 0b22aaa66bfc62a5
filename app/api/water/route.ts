import { officeWaterQuery } from "@/contracts/water";
import { guarded } from "@/server/auth/guard";
import { officeWater } from "@/server/services/water";

/** Water of all sites, by month and by site. */
export const GET = guarded("viewer", {}, ({ user, request }) =>
  officeWater(user, officeWaterQuery.parse(Object.fromEntries(new URL(request.url).searchParams)), new Date()),
);
