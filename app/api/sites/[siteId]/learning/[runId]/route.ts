import { z } from "zod";
import { bodyJson, guarded } from "@/server/auth/guard";
import { eventStream } from "@/server/live/channel";
import { ownLearningRun, stopLearning, takeLearned } from "@/server/services/learning";

type Params = { siteId: string; runId: string };
const take = z.strictObject({ stationIds: z.array(z.string()).min(1).max(10_000) });

/** The live trace, as server-sent events. */
export const GET = guarded<Params>("viewer", async ({ user, params, request }) => {
  const run = await ownLearningRun(user, params.siteId, params.runId);
  return eventStream(`learning_${run.id}`, async () => {
    const now = await ownLearningRun(user, params.siteId, params.runId);
    return now.state === "queued" || now.state === "running" ? { type: "watching" } : { type: "ended", state: now.state, seconds: now.seconds ?? 0, litres: now.litres ?? 0, end: true };
  }, request.signal);
});

/** Takes proposals into the configuration. */
export const POST = guarded<Params>("technician", async ({ user, params, request }) => {
  const { stationIds } = take.parse(await bodyJson(request));
  const saved = await takeLearned(user, params.siteId, params.runId, stationIds);
  return { version: saved.version, file: saved.file };
});

export const DELETE = guarded<Params>("technician", async ({ user, params }) => {
  await stopLearning(user, params.siteId, params.runId);
  return { ok: true };
});
