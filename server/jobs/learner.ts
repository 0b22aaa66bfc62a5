import { randomUUID } from "node:crypto";
import { claimNextRun, freeLostRuns, releaseRuns } from "../db/learning.ts";
import { listen } from "../db/listen.ts";
import { again } from "../again.ts";
import { log } from "../log.ts";
import { walkRun } from "./learning-run.ts";

/** Tells workers that a run waits. */
export const LEARNING_WAITS = "learning_waits";
/** A worker that has not shown itself for so long is taken for dead. */
const SILENT_S = 15;
const LOOK_MS = 1000;

/** So many runs are walked at once by a process (they mostly wait for their pace), and so many of one organisation over all processes. */
export type Places = { places: number; mostOfOne: number };
export const PLACES: Places = { places: 12, mostOfOne: 2 };

/**
 * In a worker: takes up the runs that wait, in a fair turn of organisations, and those whose worker died.
 *
 * @returns lets go of them; others go on at once
 */
export async function learnInTurn({ places, mostOfOne }: Places = PLACES): Promise<() => Promise<void>> {
  const worker = randomUUID();
  const walking = new Set<Promise<void>>();
  let stopped = false;
  const look = async (): Promise<void> => {
    await freeLostRuns(SILENT_S);
    while (!stopped && walking.size < places) {
      const runId = await claimNextRun(worker, mostOfOne);
      if (runId === null) return;
      const walk: Promise<void> = walkRun(runId, worker)
        .catch((error) => log.error({ err: error, runId }, "a learning run was left"))
        .finally(() => {
          walking.delete(walk);
          looking.now();
        });
      walking.add(walk);
    }
  };
  const looking = again(LOOK_MS, "looking for learning runs", look);
  const deaf = await listen(LEARNING_WAITS, () => looking.now()).catch(async (error) => {
    await looking.end();
    throw error;
  });
  return async () => {
    stopped = true;
    deaf();
    await looking.end();
    await releaseRuns(worker).catch(() => {});
    await Promise.all(walking);
  };
}
