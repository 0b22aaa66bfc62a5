import { log } from "./log.ts";

/** What fails is tried again after twice the time, and twice that, up to so long. */
const LONGEST_MS = 15_000;

/** Work that is done over and over. */
export type Again = {
  /** Does it now if it is not being done, and not while it waits after a failure. */
  now: () => void;
  /** Ends it; the answer waits for what is being done. */
  end: () => Promise<void>;
};

/**
 * Does work over and over, never twice at once. While it fails, as when the database is away, it is tried ever more rarely, and each failure is one line of the log.
 *
 * @param everyMs from one beginning to the next, ms
 * @param what for the log
 */
export function again(everyMs: number, what: string, work: () => Promise<void>, facts: object = {}): Again {
  let doing: Promise<void> | null = null;
  let failures = 0;
  let notBefore = 0;
  let ended = false;
  const now = (): void => {
    if (ended || doing || performance.now() < notBefore) return;
    doing = work()
      .then(
        () => {
          failures = 0;
        },
        (error) => {
          failures++;
          notBefore = performance.now() + Math.min(LONGEST_MS, everyMs * 2 ** failures);
          log.error({ err: error, ...facts }, `${what} failed`);
        },
      )
      .finally(() => {
        doing = null;
      });
  };
  const timer = setInterval(now, everyMs);
  now();
  return {
    now,
    end: async () => {
      ended = true;
      clearInterval(timer);
      await doing;
    },
  };
}
