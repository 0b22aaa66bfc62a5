"use client";
import { useSearchParams } from "next/navigation";

export const JOBS = ["site", "walk", "learn", "alarms", "visit"] as const;
export type Job = (typeof JOBS)[number];
type Place = { siteId: string | null; job: Job; waiting: boolean };

/** Where somebody is in the field: at which site, at which job. It stands in the address, without which nothing is asked of the server. */
export function usePlace(): Place & { go: (to: Partial<Place>) => void } {
  const params = useSearchParams();
  const job = JOBS.find((j) => j === params.get("job")) ?? "site";
  const here: Place = { siteId: params.get("site"), job, waiting: params.get("waiting") !== null };
  const go = (to: Partial<Place>): void => {
    const next = { ...here, waiting: false, ...to };
    const query = new URLSearchParams();
    if (next.siteId) query.set("site", next.siteId);
    if (next.siteId && next.job !== "site") query.set("job", next.job);
    if (next.waiting) query.set("waiting", "");
    const text = query.toString();
    window.history.pushState(null, "", text === "" ? "/field" : `/field?${text}`);
    window.scrollTo(0, 0);
  };
  return { ...here, go };
}
