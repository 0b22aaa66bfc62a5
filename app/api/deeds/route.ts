import { deedRequest } from "@/contracts/deeds";
import { guarded } from "@/server/auth/guard";
import { beginDeed, deedList } from "@/server/services/deeds";

export const GET = guarded("viewer", {}, async ({ user }) => ({ deeds: await deedList(user) }));
export const POST = guarded("technician", { body: deedRequest }, ({ user, body }) => beginDeed(user, body));
