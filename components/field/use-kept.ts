"use client";
import { useCallback, useEffect, useState } from "react";
import { usePhone } from "./store/phone";

/**
 * What is being typed under a place, kept on the phone until it is entered: going back, another site, a dead battery lose nothing of it.
 *
 * @param first what stands there before anything is typed @returns value, change, and whether it has been read
 */
export function useKept<T>(key: string, first: T): [T, (value: T) => void, boolean] {
  const draft = usePhone((s) => s.draft);
  const keepDraft = usePhone((s) => s.keepDraft);
  const [held, setHeld] = useState<{ key: string; value: T | undefined } | null>(null);
  useEffect(() => {
    let here = true;
    void draft<T>(key).then((value) => here && setHeld({ key, value }));
    return () => {
      here = false;
    };
  }, [key, draft]);
  const change = useCallback(
    (value: T): void => {
      setHeld({ key, value });
      void keepDraft(key, value);
    },
    [key, keepDraft],
  );
  const mine = held?.key === key ? held : null;
  return [mine?.value ?? first, change, mine !== null];
}
