"use client";
import { useInfiniteQuery } from "@tanstack/react-query";
import type { TimelineEntry, TimelineHead, TimelinePage } from "@/contracts/timeline";
import { request } from "./request";
import { useAlarmNews } from "./use-alarm-news";

/** What happened at a site in a month, a page after the other. @param version asked for again when another revision stands */
export function useTimeline(siteId: string, version: number, month: string, only: readonly TimelineHead[]) {
  const asked = new URLSearchParams({ month, only: only.join(" ") });
  const pageOf = (before: string | null): Promise<TimelinePage> => {
    const page = new URLSearchParams(asked);
    if (before) page.set("before", before);
    return request<TimelinePage>("GET", `/api/sites/${siteId}/timeline?${page}`);
  };
  const pages = useInfiniteQuery({
    queryKey: ["timeline", siteId, version, asked.toString()],
    queryFn: ({ pageParam }) => pageOf(pageParam),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
    staleTime: 0,
  });
  useAlarmNews(() => void pages.refetch());
  return {
    entries: pages.data?.pages.flatMap((p) => p.entries) ?? null,
    first: pages.data?.pages[0]?.first ?? null,
    problem: pages.error?.message ?? null,
    /** All of the month, page after page: what is taken away is never a part of it. */
    whole: async (): Promise<TimelineEntry[]> => {
      const all: TimelineEntry[] = [];
      for (let before: string | null = ""; before !== null; ) {
        const page: TimelinePage = await pageOf(before);
        all.push(...page.entries);
        before = page.next;
      }
      return all;
    },
    more: pages.hasNextPage && !pages.isFetchingNextPage ? () => void pages.fetchNextPage() : null,
  };
}
