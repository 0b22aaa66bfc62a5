import { guarded } from "@/server/auth/guard";
import { ofSite } from "@/server/auth/params";
import { learningRequest } from "@/contracts/learning";
import { latestLearning, startLearning } from "@/server/services/learning";

export const GET = guarded("viewer", { params: ofSite }, ({ user, params }) => latestLearning(user, params.siteId));

export const POST = guarded("technician", { params: ofSite, body: learningRequest }, async ({ user, params, body }) =>
  startLearning(user, params.siteId, body),
);
