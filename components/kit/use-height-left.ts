"use client";
import { useSyncExternalStore } from "react";

const subscribe = (listener: () => void): (() => void) => {
  window.addEventListener("resize", listener);
  return () => window.removeEventListener("resize", listener);
};

/** What the window leaves below frame and tools, px, so that a picture is seen whole: at least `least`, which is also the first drawing's. */
export function useHeightLeft(taken: number, least: number): number {
  return useSyncExternalStore(
    subscribe,
    () => Math.max(least, window.innerHeight - taken),
    () => least,
  );
}
