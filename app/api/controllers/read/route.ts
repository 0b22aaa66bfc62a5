import { readManyRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { readBackMany } from "@/server/services/all-controllers";

export const POST = guarded("technician", { body: readManyRequest }, ({ user, body }) =>
  readBackMany(user, body.siteIds),
);
