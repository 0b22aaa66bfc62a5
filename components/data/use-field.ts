"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { request } from "@/components/data/request";
import { hearStream } from "./shared-stream";
import { useWorkspace } from "@/components/draft/site-draft";
import type { FieldStatus, GatewayKey } from "@/contracts/field";

export type LiveReading = {
  at: string;
  flow: Record<string, number | null>;
  pressure: Record<string, number | null>;
  open: string[];
  running: number;
  valves: string[];
  pumps: string[];
  /** Seconds that open stations have left, and which come next. */
  left?: Record<string, number>;
  next?: string[];
  lost: number;
  refused: number;
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
  const { siteId } = useWorkspace("siteId");
  const base = `/api/sites/${siteId}/field`;
  const client = useQueryClient();
  const queryKey = useMemo(() => ["field", siteId], [siteId]);
  const status = useQuery({ queryKey, queryFn: () => request<FieldStatus>("GET", base), staleTime: 0 });
  const [reading, setReading] = useState<LiveReading | null>(null);

  useEffect(() => {
    let fetched = Date.now();
    let later: ReturnType<typeof setTimeout> | undefined;
    const refresh = (): void => {
      later ??= setTimeout(
        () => {
          later = undefined;
          fetched = Date.now();
          void client.invalidateQueries({ queryKey });
        },
        Math.max(0, fetched + PICTURE_MS - Date.now()),
      );
    };
    const deaf = hearStream(`${base}/live`, (data) => {
      const news = JSON.parse(data) as News;
      if (news.type === "reading") setReading(news);
      refresh();
    });
    return () => {
      deaf();
      clearTimeout(later);
    };
  }, [base, client, queryKey]);

  const change = useMutation({
    mutationFn: ({ method, path, body }: { method: "POST" | "DELETE"; path: string; body: unknown }) =>
      request(method, `${base}${path}`, body),
    onSuccess: () => {
      setReading(null);
      return client.invalidateQueries({ queryKey });
    },
  });
  return {
    status: status.data ?? null,
    reading,
    problem: (change.error ?? status.error)?.message ?? null,
    act: (method: "POST" | "DELETE", path: string, body?: unknown): Promise<boolean> =>
      change.mutateAsync({ method, path, body }).then(
        () => true,
        () => false,
      ),
    /** Gives the gateway a new account; null where that was refused. */
    setUp: (): Promise<GatewayKey | null> =>
      change.mutateAsync({ method: "POST", path: "", body: {} }).then(
        (key) => key as GatewayKey,
        () => null,
      ),
  };
}
