"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { LogBook } from "@/contracts/log";
import type { SiteFile } from "@/core/site-file/schema";
import { request } from "./request";
import { useAlarmNews } from "./use-alarm-news";

export type SavedSite = { version: number; file: SiteFile };

/** The log of a site, read again whenever its alarms change or a revision was made. `version` is the one in force here. */
export function useLogBook(siteId: string, version: number) {
  const client = useQueryClient();
  const key = ["log", siteId];
  const book = useQuery({
    queryKey: [...key, version],
    queryFn: () => request<LogBook>("GET", `/api/sites/${siteId}/log`),
    placeholderData: (before) => before,
  });
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: key });
  useAlarmNews(() => void again());
  const act = useMutation({
    mutationFn: ({ alarmId, body }: { alarmId: string; body: unknown }) =>
      request<SavedSite>("POST", `/api/sites/${siteId}/alarms/${alarmId}`, body),
    onSettled: again,
  });
  const putBack = useMutation({
    mutationFn: ({ to, from }: { to: number; from: number }) =>
      request<SavedSite>("POST", `/api/sites/${siteId}/revisions/${to}`, { baseVersion: from }),
    onSettled: again,
  });
  return { book: book.data ?? null, problem: book.error?.message ?? null, act, putBack };
}
