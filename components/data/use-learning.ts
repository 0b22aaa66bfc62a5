"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { request, type Wire } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import type { LearnThereRequest } from "@/contracts/controllers";
import type { LearningRequest, LearningView, OutsideRequest } from "@/contracts/learning";
import type { SiteFile } from "@/core/site-file/schema";
import { useLearningStream } from "./use-learning-stream";

export type Learned = Wire<LearningView>;
export type Proposal = Learned["results"][number];
export type RunNow = NonNullable<Learned["run"]>;
export type Schedule = Pick<LearningRequest, "date" | "from" | "to" | "avoid" | "pace" | "later">;

type Change = { method: "POST" | "DELETE"; path: string; body?: unknown };
type Which = Pick<Proposal, "runId" | "elementId">;

const NOTHING: Learned = { run: null, results: [], sets: [], past: {} };

/** What the server knows of learning on this site, live while a run goes, and everything one can do with it. */
export function useLearning() {
  const { siteId, adopt } = useWorkspace("siteId", "adopt");
  const base = `/api/sites/${siteId}/learning`;
  const client = useQueryClient();
  const queryKey = useMemo(() => ["learning", siteId], [siteId]);
  const read = useQuery({ queryKey, queryFn: () => request<Learned>("GET", base), staleTime: 0 });
  const [told, setTold] = useState<string | null>(null);
  const view = read.data ?? NOTHING;
  const going = view.run !== null && isGoing(view.run) ? view.run.id : null;
  const live = useLearningStream(base, going, () => void client.invalidateQueries({ queryKey }));
  const { mutateAsync, error } = useMutation({
    mutationFn: ({ method, path, body }: Change) => request<unknown>(method, `${base}${path}`, body),
    onMutate: () => setTold(null),
    onSuccess: () => client.invalidateQueries({ queryKey }),
  });

  const actions = useMemo(() => {
    /** The answer; null when it was refused, and why is then `problem`. */
    const send = <T>(change: Change): Promise<T | null> =>
      mutateAsync(change).then(
        (answer) => answer as T,
        () => null,
      );
    const post = <T>(path: string, body?: unknown): Promise<T | null> => send<T>({ method: "POST", path, body });
    const saved = async (path: string, body: unknown): Promise<boolean> => {
      const now = await post<{ version: number; file: SiteFile }>(path, body);
      if (now) adopt(now.file, now.version);
      return now !== null;
    };
    const picks = (rows: Which[]) => rows.map((r) => ({ runId: r.runId, stationId: r.elementId }));
    return {
      fail: setTold,
      start: (asked: LearningRequest) => post<{ runId: string }>("", asked),
      /** At the controllers themselves, at once or from an instant on. */
      startThere: (asked: LearnThereRequest) => post<{ runId: string }>("/there", asked),
      goOn: (runId: string, when: Schedule) => post(`/${runId}`, when),
      stop: (runId: string) => send({ method: "DELETE", path: `/${runId}` }),
      take: (rows: Which[]) => saved("/proposals", { action: "take", picks: picks(rows) }),
      undo: (rows: Which[]) => saved("/proposals", { action: "undo", picks: picks(rows) }),
      takeSets: (runId: string, sets: string[][]) => saved(`/${runId}/sets`, { sets }),
      meter: async (runId: string, was: { beforeL: number; afterL: number; minutes: number }) =>
        (await post(`/${runId}/meter`, was)) !== null,
      outside: async (asked: OutsideRequest) =>
        (await post<{ proposals: number }>("/outside", asked))?.proposals ?? null,
      base,
    };
  }, [mutateAsync, adopt, base]);
  return {
    ...actions,
    view,
    loaded: read.isSuccess,
    live,
    problem: told ?? error?.message ?? read.error?.message ?? null,
    running: going !== null,
  };
}
export type LearningState = ReturnType<typeof useLearning>;

const isGoing = (run: RunNow): boolean => run.state === "queued" || run.state === "running";
