import { bodyJson, guarded } from "@/server/auth/guard";
import { learningRequest } from "@/contracts/learning";
import { eventStream } from "@/server/live/channel";
import { goOnLearning, ownLearningRun, stopLearning } from "@/server/services/learning";

type Params = { siteId: string; runId: string };
const again = learningRequest.pick({ date: true, from: true, to: true, avoid: true, pace: true, later: true }).strict();

/** The live trace, as server-sent events. */
export const GET = guarded<Params>("viewer", async ({ user, params, request }) => {
  const run = await ownLearningRun(user, params.siteId, params.runId);
  return eventStream(
    `learning_${run.id}`,
    async () => {
      const now = await ownLearningRun(user, params.siteId, params.runId);
      return now.state === "queued" || now.state === "running"
        ? { type: "watching" }
        : { type: "ended", state: now.state, seconds: now.seconds ?? 0, litres: now.litres ?? 0, end: true };
    },
    request.signal,
  );
});

/** Goes on with what a stopped run has left. */
export const POST = guarded<Params>("technician", async ({ user, params, request }) => {
  await goOnLearning(user, params.siteId, params.runId, again.parse(await bodyJson(request)));
  return { ok: true };
});

export const DELETE = guarded<Params>("technician", async ({ user, params }) => {
  await stopLearning(user, params.siteId, params.runId);
  return { ok: true };
});
