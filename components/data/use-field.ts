"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { request } from "@/components/data/request";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import type { SiteFile } from "@/core/site-file/schema";
import type { FieldStatus } from "@/contracts/field";

export type LiveReading = {
  at: string;
  flow: Record<string, number | null>;
  pressure: Record<string, number | null>;
  open: string[];
  running: number;
  valves: string[];
  pumps: string[];
  lost: number;
  repeats: number;
  readings: number;
};
type News =
  | ({ type: "reading" } & LiveReading)
  | { type: "events"; events: { at: string; type: string; subjectId: string; reason: string }[] }
  | { type: "state"; state: NonNullable<FieldStatus["gateway"]>["state"] };
/** How often the picture of the last half hour is fetched anew while it is live. */
const PICTURE_MS = 4000;

/** What the site's gateway says, live; and what one can do with it. */
export function useField() {
  const { siteId, adopt, version } = useWorkspace("siteId", "adopt", "version");
  const changes = useChanges();
  const [status, setStatus] = useState<FieldStatus | null>(null);
  const [reading, setReading] = useState<LiveReading | null>(null);
  const [events, setEvents] = useState<FieldStatus["events"]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const base = `/api/sites/${siteId}/field`;
  const mine = useRef({ changed: changes.length > 0, version });
  mine.current = { changed: changes.length > 0, version };

  const reload = useCallback(async (): Promise<void> => {
    const next = await request<FieldStatus>("GET", base);
    setStatus(next);
    setEvents(next.events);
    // The controller locked something out: the newest configuration, unless someone is in the middle of a change.
    if (next.version > mine.current.version && !mine.current.changed)
      adopt(await request<SiteFile>("GET", `/api/sites/${siteId}/file`), next.version);
  }, [base, siteId, adopt]);

  useEffect(() => {
    const fail = (error: unknown): void => setProblem(error instanceof Error ? error.message : String(error));
    let fetched = 0;
    let later: ReturnType<typeof setTimeout> | undefined;
    const refresh = (): void => {
      const wait = fetched + PICTURE_MS - Date.now();
      if (later !== undefined) return;
      later = setTimeout(
        () => {
          later = undefined;
          fetched = Date.now();
          void reload().catch(fail);
        },
        Math.max(0, wait),
      );
    };
    refresh();
    const source = new EventSource(`${base}/live`);
    source.onmessage = ({ data }) => {
      const news = JSON.parse(data) as News;
      if (news.type === "reading") setReading(news);
      refresh();
    };
    return () => {
      source.close();
      clearTimeout(later);
    };
  }, [base, reload]);

  const act = async (method: "POST" | "DELETE", path: string, body?: unknown): Promise<boolean> => {
    setProblem(null);
    try {
      await request(method, `${base}${path}`, body);
      setReading(null);
      await reload();
      return true;
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      return false;
    }
  };
  return { status, reading, events, problem, act };
}
