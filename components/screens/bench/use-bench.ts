"use client";
import { useCallback, useState } from "react";
import { create } from "zustand";
import { request } from "@/components/data/request";
import { computeBench } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import { useJob } from "@/components/draft/use-job";
import { useSiteLog } from "@/components/draft/site-log";
import type { LogFacts } from "@/contracts/log";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import type { Simulation } from "@/core/bench/simulate";
import type { SiteFile } from "@/core/site-file/schema";

export type BenchAsked = { date: string; faults: FaultRequest[]; seed: number; exact: boolean };
/** A night that was run: what was asked, of which configuration, and what came of it. */
export type BenchRun = { asked: BenchAsked; result: Simulation; file: SiteFile };
type Kept = { faults: FaultRequest[]; seed: number; exact: boolean; run: BenchRun | null; taken: number | null };

const NOTHING: Kept = { faults: [], seed: 1, exact: false, run: null, taken: null };

/** What stands on the bench of each site, kept while one looks elsewhere. */
const useBenches = create<{ sites: Record<string, Kept>; put: (siteId: string, values: Partial<Kept>) => void }>(
  (set) => ({
    sites: {},
    put: (siteId, values) =>
      set((s) => ({ sites: { ...s.sites, [siteId]: { ...(s.sites[siteId] ?? NOTHING), ...values } } })),
  }),
);

/** Runs a night on the bench, with progress and giving up, and takes it into the log. */
export function useBench(date: string) {
  const { draft, siteId, adopt } = useWorkspace("draft", "siteId", "adopt");
  const kept = useBenches((s) => s.sites[siteId] ?? NOTHING);
  const put = useBenches((s) => s.put);
  const { setLog } = useSiteLog();
  const { share, problem, start: begin, cancel } = useJob<Simulation>();
  const [refused, setRefused] = useState<string | null>(null);
  const { faults, seed, exact, run } = kept;

  const start = useCallback(async (): Promise<void> => {
    setRefused(null);
    const asked = { date, faults, seed, exact };
    const result = await begin((onProgress) => computeBench(draft, asked, onProgress));
    if (result) put(siteId, { run: { asked, result, file: draft }, taken: null });
  }, [draft, siteId, date, faults, seed, exact, put, begin]);

  const take = async (): Promise<void> => {
    if (!run) return;
    setRefused(null);
    try {
      const saved = await request<{ alarms: number }>("POST", `/api/sites/${siteId}/bench`, run.asked);
      // The revision with its own number: someone else may have saved meanwhile.
      const now = await request<{ version: number; file: SiteFile }>("GET", `/api/sites/${siteId}/revisions`);
      adopt(now.file, now.version);
      setLog(await request<LogFacts>("GET", `/api/sites/${siteId}/log/facts`));
      put(siteId, { taken: saved.alarms });
    } catch (error) {
      setRefused(error instanceof Error ? error.message : String(error));
    }
  };

  const { asked } = run ?? {};
  return {
    ...kept,
    share,
    problem: problem ?? refused,
    /** The run belongs to the night, faults and settings as they stand. */
    current:
      run !== null &&
      run.file === draft &&
      asked?.date === date &&
      asked.faults === faults &&
      asked.seed === seed &&
      asked.exact === exact,
    start,
    take,
    giveUp: cancel,
    put: (values: Partial<Pick<Kept, "faults" | "seed" | "exact">>) => put(siteId, values),
  };
}
