import { guarded } from "@/server/auth/guard";
import { ofRun } from "@/server/auth/params";
import { learningRequest } from "@/contracts/learning";
import { eventStream } from "@/server/live/channel";
import { goOnLearning, ownLearningRun, stopLearning } from "@/server/services/learning";

const again = learningRequest.pick({ date: true, from: true, to: true, avoid: true, pace: true, later: true }).strict();

/** The live trace, as server-sent events. */
export const GET = guarded("viewer", { params: ofRun }, async ({ user, params, request }) => {
  const run = await ownLearningRun(user, params.siteId, params.runId);
  return eventStream(
    user,
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
export const POST = guarded("technician", { params: ofRun, body: again }, async ({ user, params, body }) => {
  await goOnLearning(user, params.siteId, params.runId, body);
  return { ok: true };
});

export const DELETE = guarded("technician", { params: ofRun }, async ({ user, params }) => {
  await stopLearning(user, params.siteId, params.runId);
  return { ok: true };
});
