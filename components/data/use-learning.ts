"use client";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { request, type Wire } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import type { SiteFile } from "@/core/site-file/schema";
import type { LearningMessage, LearningRequest, LearningView } from "@/contracts/learning";
import type { OutsideRequest } from "@/contracts/learning";

export type Learned = Wire<LearningView>;
export type Proposal = Learned["results"][number];
export type RunNow = NonNullable<Learned["run"]>;
export type TracePoint = { at: number; lpm: number; settling: boolean };
export type Live = {
  stationId: string | null;
  withIds: string[];
  points: TracePoint[];
  waits: { until: number; why: string } | null;
};
export type Schedule = Pick<LearningRequest, "date" | "from" | "to" | "avoid" | "pace" | "later">;

const NOTHING: Learned = { run: null, results: [], sets: [], past: {} };
const STILL: Live = { stationId: null, withIds: [], points: [], waits: null };
const KEPT_POINTS = 3900;

/** What the server knows of learning on this site, live while a run goes, and everything one can do with it. */
export function useLearning() {
  const { siteId, adopt } = useWorkspace("siteId", "adopt");
  const [view, setView] = useState<Learned>(NOTHING);
  const [loaded, setLoaded] = useState(false);
  const [live, setLive] = useState<Live>(STILL);
  const [problem, setProblem] = useState<string | null>(null);
  const source = useRef<EventSource | null>(null);
  const base = `/api/sites/${siteId}/learning`;

  const reload = useCallback(async (): Promise<Learned> => {
    const next = await request<Learned>("GET", base);
    setView(next);
    setLoaded(true);
    return next;
  }, [base]);

  const watch = useCallback(
    (runId: string): void => {
      source.current?.close();
      const events = new EventSource(`${base}/${runId}`);
      source.current = events;
      events.onmessage = ({ data }) => {
        const message = JSON.parse(data) as LearningMessage | { type: "watching" };
        switch (message.type) {
          case "opens":
            setLive({ ...STILL, stationId: message.stationId, withIds: message.withIds ?? [] });
            break;
          case "samples":
            setLive((l) => ({
              ...l,
              stationId: message.stationId,
              waits: null,
              points: [
                ...(l.stationId === message.stationId ? l.points : []),
                ...message.rows.map(([at, lpm, settling]) => ({ at, lpm, settling: settling === 1 })),
              ].slice(-KEPT_POINTS),
            }));
            break;
          case "waits":
            setLive((l) => ({ ...l, waits: { until: message.until, why: message.why } }));
            break;
          case "ended":
            events.close();
            setLive(STILL);
            void reload().catch(() => {});
            break;
          case "baseline":
          case "result":
          case "set":
          case "refused":
          case "left":
            void reload().catch(() => {});
            break;
          case "watching":
            break;
        }
      };
      // A page that lost the stream asks again; the run itself goes on without it.
      events.onerror = () => {
        if (events.readyState === EventSource.CLOSED)
          setTimeout(() => {
            if (source.current === events) void reload().catch(() => {});
          }, 2000);
      };
    },
    [base, reload],
  );

  useEffect(() => {
    let gone = false;
    reload().then(
      (v) => {
        if (!gone && v.run && going(v.run)) watch(v.run.id);
      },
      (error) => {
        if (!gone) setProblem(String(error instanceof Error ? error.message : error));
      },
    );
    return () => {
      gone = true;
      source.current?.close();
    };
  }, [reload, watch]);

  const attempt = useCallback(async <T>(work: () => Promise<T>): Promise<T | null> => {
    setProblem(null);
    try {
      return await work();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      return null;
    }
  }, []);

  return useMemo(() => {
    const saved = async (path: string, body: unknown): Promise<boolean> =>
      (await attempt(async () => {
        const { file, version } = await request<{ version: number; file: SiteFile }>("POST", `${base}/${path}`, body);
        adopt(file, version);
        await reload();
        return true;
      })) === true;
    return {
      view,
      loaded,
      live,
      problem,
      running: view.run !== null && going(view.run),
      fail: setProblem,
      start: (asked: LearningRequest) =>
        attempt(async () => {
          const { runId } = await request<{ runId: string }>("POST", base, asked);
          setLive(STILL);
          await reload();
          watch(runId);
          return runId;
        }),
      goOn: (runId: string, when: Schedule) =>
        attempt(async () => {
          await request("POST", `${base}/${runId}`, when);
          await reload();
          watch(runId);
        }),
      stop: (runId: string) =>
        attempt(async () => {
          await request("DELETE", `${base}/${runId}`);
          setTimeout(() => {
            void reload().catch(() => {});
          }, 1500);
        }),
      take: (rows: Pick<Proposal, "runId" | "elementId">[]) =>
        saved("proposals", { action: "take", picks: rows.map((r) => ({ runId: r.runId, stationId: r.elementId })) }),
      undo: (rows: Pick<Proposal, "runId" | "elementId">[]) =>
        saved("proposals", { action: "undo", picks: rows.map((r) => ({ runId: r.runId, stationId: r.elementId })) }),
      takeSets: (runId: string, sets: string[][]) => saved(`${runId}/sets`, { sets }),
      meter: (runId: string, read: { beforeL: number; afterL: number; minutes: number }) =>
        attempt(async () => {
          await request("POST", `${base}/${runId}/meter`, read);
          await reload();
          return true;
        }),
      outside: (asked: OutsideRequest) =>
        attempt(async () => {
          const made = await request<{ proposals: number }>("POST", `${base}/outside`, asked);
          await reload();
          return made.proposals;
        }),
      base,
    };
  }, [view, loaded, live, problem, base, attempt, adopt, reload, watch]);
}
export type LearningState = ReturnType<typeof useLearning>;

const going = (run: RunNow): boolean => run.state === "queued" || run.state === "running";
