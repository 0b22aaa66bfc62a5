import { type ChildProcess, spawn } from "node:child_process";

/** A worker process as it is started in earnest. Whoever starts one ends it, however the test ends: one left behind takes what later tests ask for. */
export const startWorker = (): ChildProcess =>
  spawn(process.execPath, ["--import", "tsx", "server/jobs/worker.ts"], { stdio: "ignore", env: process.env });

/** Ends a worker, at once unless told otherwise, and waits until it is gone. */
export async function endWorker(child: ChildProcess, signal: "SIGKILL" | "SIGTERM" = "SIGKILL"): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((r) => child.once("exit", r));
  child.kill(signal);
  await gone;
}
