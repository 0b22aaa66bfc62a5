"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { create } from "zustand";
import { request } from "@/components/data/request";
import { Cancelled, computeBench } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
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
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const cancel = useRef<(() => void) | null>(null);
  useEffect(() => () => cancel.current?.(), []);
  const { faults, seed, exact, run } = kept;

  const start = useCallback(async (): Promise<void> => {
    if (cancel.current) return;
    setProblem(null);
    setShare(0);
    const asked = { date, faults, seed, exact };
    const job = computeBench(draft, asked, setShare);
    cancel.current = job.cancel;
    try {
      put(siteId, { run: { asked, result: await job.promise, file: draft }, taken: null });
    } catch (error) {
      if (!(error instanceof Cancelled)) setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      cancel.current = null;
      setShare(null);
    }
  }, [draft, siteId, date, faults, seed, exact, put]);

  const take = async (): Promise<void> => {
    if (!run) return;
    setProblem(null);
    try {
      const saved = await request<{ alarms: number; version: number }>("POST", `/api/sites/${siteId}/bench`, run.asked);
      adopt(await request<SiteFile>("GET", `/api/sites/${siteId}/file`), saved.version);
      setLog(await request<LogFacts>("GET", `/api/sites/${siteId}/log/facts`));
      put(siteId, { taken: saved.alarms });
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };

  const { asked } = run ?? {};
  return {
    ...kept,
    share,
    problem,
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
    giveUp: () => cancel.current?.(),
    put: (values: Partial<Pick<Kept, "faults" | "seed" | "exact">>) => put(siteId, values),
  };
}
