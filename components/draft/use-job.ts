"use client";
import { useEffect, useRef, useState } from "react";
import { Cancelled, type Job } from "./compute";

/** One heavy computation at a time: how far it is, what came of it or went wrong, and giving it up. Leaving the screen gives it up too. */
export function useJob<T>() {
  const [value, setValue] = useState<T | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const now = useRef<(() => void) | null>(null);
  useEffect(() => () => now.current?.(), []);
  const start = async (begin: (onProgress: (share: number) => void) => Job<T>): Promise<void> => {
    setProblem(null);
    setShare(0);
    const job = begin(setShare);
    now.current = job.cancel;
    try {
      setValue(await job.promise);
    } catch (error) {
      if (!(error instanceof Cancelled)) setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      now.current = null;
      setShare(null);
    }
  };
  return { value, share, problem, start, cancel: () => now.current?.() };
}
