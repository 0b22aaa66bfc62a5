import { readBackHour, sendManyRequest } from "@/contracts/controllers";
import { guarded } from "@/server/auth/guard";
import { allControllers, sendMany, setHour } from "@/server/services/all-controllers";

export const GET = guarded("viewer", {}, ({ user }) => allControllers(user));
export const POST = guarded("technician", { body: sendManyRequest }, ({ user, body }) => sendMany(user, body.sites));
export const PATCH = guarded("manager", { body: readBackHour }, ({ user, body }) => setHour(user, body.readBackAt));
