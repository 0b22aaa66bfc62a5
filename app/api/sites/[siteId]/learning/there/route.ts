import { learnThereRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { learnThere } from "@/server/services/orders";

export const POST = guarded("technician", { params: ofSite, body: learnThereRequest }, ({ user, params, body }) =>
  learnThere(user, params.siteId, body),
);
