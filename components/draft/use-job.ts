"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { Cancelled, type Job } from "./compute";

/**
 * One heavy computation at a time: how far it is, what came of it or went wrong, and giving it up. Another one begun gives up the one before,
 * and so does leaving the screen.
 */
export function useJob<T>() {
  const [value, setValue] = useState<T | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const now = useRef<Job<T> | null>(null);
  const cancel = useCallback(() => now.current?.cancel(), []);
  useEffect(() => cancel, [cancel]);
  /** What came of it; null when it was given up or went wrong. */
  const start = useCallback(
    async (begin: (onProgress: (share: number) => void) => Job<T>): Promise<T | null> => {
      cancel();
      setProblem(null);
      setShare(0);
      const job = begin((done) => now.current === job && setShare(done));
      now.current = job;
      try {
        const came = await job.promise;
        if (now.current === job) setValue(came);
        return came;
      } catch (error) {
        if (!(error instanceof Cancelled)) setProblem(error instanceof Error ? error.message : String(error));
        return null;
      } finally {
        if (now.current === job) {
          now.current = null;
          setShare(null);
        }
      }
    },
    [cancel],
  );
  return { value, share, problem, start, cancel };
}
