"use client";
import { useEffect, useRef, useState } from "react";
import type { LearningMessage } from "@/contracts/learning";

export type TracePoint = { at: number; lpm: number; settling: boolean };
export type Live = {
  stationId: string | null;
  withIds: string[];
  points: TracePoint[];
  waits: { until: number; why: string } | null;
};
type Told = LearningMessage | { type: "watching" };

const STILL: Live = { stationId: null, withIds: [], points: [], waits: null };
const KEPT_POINTS = 3900;
/** After which a stream that was lost is opened again, ms. */
const AGAIN_MS = 2000;

/** What is being learned after one more message. */
export function heard(live: Live, message: Told): Live {
  switch (message.type) {
    case "opens":
      return { ...STILL, stationId: message.stationId, withIds: message.withIds ?? [] };
    case "samples": {
      const before = live.stationId === message.stationId ? live.points : [];
      const fresh = message.rows.map(([at, lpm, settling]) => ({ at, lpm, settling: settling === 1 }));
      return {
        ...live,
        stationId: message.stationId,
        waits: null,
        points: [...before, ...fresh].slice(-KEPT_POINTS),
      };
    }
    case "waits":
      return { ...live, waits: { until: message.until, why: message.why } };
    case "ended":
      return STILL;
    default:
      return live;
  }
}

/** Messages after which there is more to read than what they say. */
const NEWS: ReadonlySet<Told["type"]> = new Set(["baseline", "result", "set", "refused", "left", "ended"]);

/** The readings of a run that goes, as they come; the run itself goes on without the page. `onNews`: something was kept. */
export function useLearningStream(base: string, runId: string | null, onNews: () => void): Live {
  const [live, setLive] = useState(STILL);
  const [lost, setLost] = useState(0);
  const news = useRef(onNews);
  news.current = onNews;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another run begins with nothing
  useEffect(() => setLive(STILL), [runId]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a lost stream is opened anew
  useEffect(() => {
    if (runId === null) return;
    let later: ReturnType<typeof setTimeout> | undefined;
    const events = new EventSource(`${base}/${runId}`);
    events.onmessage = ({ data }) => {
      const message = JSON.parse(data) as Told;
      setLive((now) => heard(now, message));
      if (message.type === "ended") events.close();
      if (NEWS.has(message.type)) news.current();
    };
    events.onerror = () => {
      if (events.readyState !== EventSource.CLOSED) return;
      news.current();
      later = setTimeout(() => setLost((n) => n + 1), AGAIN_MS);
    };
    return () => {
      clearTimeout(later);
      events.close();
    };
  }, [base, runId, lost]);
  return live;
}
