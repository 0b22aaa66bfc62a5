"use client";
import { useInfiniteQuery } from "@tanstack/react-query";
import type { TimelineHead, TimelinePage } from "@/contracts/timeline";
import { request } from "./request";
import { useAlarmNews } from "./use-alarm-news";

/** What happened at a site in a month, a page after the other. @param version asked for again when another revision stands */
export function useTimeline(siteId: string, version: number, month: string, only: readonly TimelineHead[]) {
  const asked = new URLSearchParams({ month, only: only.join(" ") });
  const pages = useInfiniteQuery({
    queryKey: ["timeline", siteId, version, asked.toString()],
    queryFn: ({ pageParam }) => {
      const page = new URLSearchParams(asked);
      if (pageParam) page.set("before", pageParam);
      return request<TimelinePage>("GET", `/api/sites/${siteId}/timeline?${page}`);
    },
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
    staleTime: 0,
  });
  useAlarmNews(() => void pages.refetch());
  return {
    entries: pages.data?.pages.flatMap((p) => p.entries) ?? null,
    first: pages.data?.pages[0]?.first ?? null,
    problem: pages.error?.message ?? null,
    more: pages.hasNextPage && !pages.isFetchingNextPage ? () => void pages.fetchNextPage() : null,
  };
}
