import { learnableRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { learnable } from "@/server/services/learn-many";

/** A question; it is asked as a POST since hundreds of sites do not fit into an address. */
export const POST = guarded("technician", { body: learnableRequest }, ({ user, body }) => learnable(user, body.sites));
