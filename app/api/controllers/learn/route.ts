import { learnManyRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { learnMany } from "@/server/services/learn-many";

export const POST = guarded("technician", { body: learnManyRequest }, ({ user, body }) => learnMany(user, body));
