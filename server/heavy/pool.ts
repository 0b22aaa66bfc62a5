import { availableParallelism } from "node:os";
import { join } from "node:path";
import { Piscina } from "piscina";
import { AppError } from "../app-error.ts";
import { Fair } from "../fair.ts";
import type { renderPaper } from "../../paper/render.tsx";
import type { Tasks } from "./tasks.ts";

/** Seconds that one computation may take; more is given up, and its thread ended. A slow machine may be given more. */
const BUDGET_S = Number(process.env["PRESA_COMPUTE_S"]) || 20;
const THREADS = Math.max(2, Math.min(4, availableParallelism()));
/** So many computations of one organisation may wait; more are refused at once, so that they do not pile up. */
const MOST_WAITING = 60;

/** What somebody waits for with a finger on the key, and is done in moments: it never waits for the long ones. */
const QUICK: ReadonlySet<keyof Tasks> = new Set([
  "readSite",
  "settleSave",
  "settleAmended",
  "manyOnSites",
  "manyToSave",
  "differences",
  "siteDifferences",
  "basisOf",
  "learningProblem",
  "orderProblem",
  "learnRefusals",
  "toLearn",
  "settingsToSend",
  "takeItems",
]);

type Lane = { pool: Piscina; fair: Fair };
type Lanes = { quick: Lane; long: Lane; paper: Lane };
/** Paper has threads of its own: what draws pages is large, and no other task needs it. */
type Work = Tasks & { paper: typeof renderPaper };
const global = globalThis as typeof globalThis & { presaHeavy?: Lanes };

/** @param kept threads that stay: one that begins reads all of core first, which takes a second or two
 * @param nice of the lane's threads: whoever answers requests, and the database, come before them
 * @param file what they do */
function lane(threads: number, kept: number, nice: number, file = "thread.ts"): Lane {
  return {
    pool: new Piscina({
      filename: join(process.cwd(), "server/heavy", file),
      execArgv: ["--import", "tsx"],
      env: { ...process.env, PRESA_NICE: String(nice) },
      minThreads: kept,
      maxThreads: threads,
      idleTimeout: 60_000,
      concurrentTasksPerWorker: 1,
      resourceLimits: { maxOldGenerationSizeMb: 1024 },
    }),
    fair: new Fair({ places: threads, most: Math.max(1, threads - 1), waiting: MOST_WAITING, what: "computations" }),
  };
}

function lanes(): Lanes {
  global.presaHeavy ??= {
    quick: lane(3, 2, 2),
    long: lane(THREADS, 1, 12),
    paper: lane(2, 0, 12, "paper-thread.mjs"),
  };
  return global.presaHeavy;
}

function laneOf(name: keyof Work): keyof Lanes {
  if (name === "paper") return "paper";
  return QUICK.has(name) ? "quick" : "long";
}

/**
 * A computation by name, on a thread of its own: the process that answers requests never computes itself. One organisation never has all threads, and whoever has fewest
 * comes next.
 *
 * @param signal given up when the caller goes
 */
export async function heavy<K extends keyof Work>(
  organisationId: string,
  name: K,
  args: Parameters<Work[K]>,
  { signal, budgetS = BUDGET_S }: { signal?: AbortSignal; budgetS?: number } = {},
): Promise<Awaited<ReturnType<Work[K]>>> {
  const { pool, fair } = lanes()[laneOf(name)];
  const leave = await fair.enter(organisationId, signal);
  const over = AbortSignal.timeout(1000 * budgetS);
  try {
    return await pool.run({ name, args }, { signal: signal ? AbortSignal.any([over, signal]) : over });
  } catch (error) {
    if (over.aborted)
      throw new AppError(
        "tooLarge",
        `This takes more than ${budgetS} s to work out and was given up; nothing was changed. Try it with fewer stations, cycles or rows.`,
      );
    throw error;
  } finally {
    leave();
  }
}

/** Begins the threads that stay, so that nobody waits for the first: for the start of a process that answers requests. */
export function beginHeavy(): void {
  lanes();
}

/** Ends the threads: for the end of a process or a test. */
export async function endHeavy(): Promise<void> {
  const open = global.presaHeavy;
  delete global.presaHeavy;
  await Promise.all(Object.values(open ?? {}).map(({ pool }) => pool.destroy()));
}
