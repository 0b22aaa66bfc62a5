import { bodyJson, guarded } from "@/server/auth/guard";
import { learningRequest } from "@/contracts/learning";
import { latestLearning, startLearning } from "@/server/services/learning";

type Params = { siteId: string };

export const GET = guarded<Params>("viewer", ({ user, params }) => latestLearning(user, params.siteId));

export const POST = guarded<Params>("technician", async ({ user, params, request }) =>
  startLearning(user, params.siteId, learningRequest.parse(await bodyJson(request))),
);
