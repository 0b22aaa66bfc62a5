import { closeDatabase } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { recordGateways } from "../field/recorder.ts";
import { log } from "../log.ts";
import { runLearning, takeUpLostRuns } from "./learning-run.ts";
import { LEARNING_QUEUE, queue } from "./queue.ts";

/** A worker process: takes learning runs from the queue, two at a time, and records the field gateways that no other worker records. */
const boss = await queue();
for (let i = 0; i < 2; i++)
  await boss.work<{ runId: string }>(LEARNING_QUEUE, { pollingIntervalSeconds: 0.5 }, async ([job]) => {
    if (job) await runLearning(job.data.runId);
  });
const sweep = setInterval(() => {
  takeUpLostRuns().catch((error) => log.error({ err: error }, "looking for lost runs failed"));
}, 5000);
const stopRecording = await recordGateways();
log.info("worker ready");

const stop = async (): Promise<void> => {
  clearInterval(sweep);
  await stopRecording();
  await boss.stop({ graceful: false, wait: true, timeout: 2000 }).catch(() => {});
  await closeListening();
  await closeDatabase();
  process.exit(0);
};
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
