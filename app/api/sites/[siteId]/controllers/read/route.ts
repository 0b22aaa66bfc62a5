import { z } from "zod";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { readBack } from "@/server/services/orders";

const nothing = z.strictObject({});
export const POST = guarded("technician", { params: ofSite, body: nothing }, ({ user, params }) =>
  readBack(user, params.siteId),
);
