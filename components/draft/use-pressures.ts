"use client";
import { useEffect, useState } from "react";
import type { SiteFile } from "@/core/site-file/schema";
import type { PressureAnswer } from "@/workers/compute.worker";
import { computePressures } from "./compute";

export type Pressures =
  | { state: "working" }
  | { state: "failed"; message: string }
  | ({ state: "done" } & PressureAnswer);

/** Pressures of the draft as it stands, solved anew a moment after the last edit. */
export function usePressures(site: SiteFile, date: string | null): Pressures {
  const [found, setFound] = useState<Pressures>({ state: "working" });
  useEffect(() => {
    let gone = false;
    let cancel = (): void => {};
    setFound({ state: "working" });
    const timer = setTimeout(() => {
      const job = computePressures(site, date);
      cancel = job.cancel;
      job.promise.then(
        (answer) => {
          if (!gone) setFound({ state: "done", ...answer });
        },
        (e: Error) => {
          if (!gone) setFound({ state: "failed", message: e.message });
        },
      );
    }, 250);
    return () => {
      gone = true;
      clearTimeout(timer);
      cancel();
    };
  }, [site, date]);
  return found;
}
