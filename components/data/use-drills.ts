"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { DrillBook, DrillRequest } from "@/contracts/drills";
import type { DrillOutcome } from "@/core/drill/drill";
import { request, type Wire } from "./request";

/** What was found in the drills of a site, by person; and one more that is judged by the server and kept. */
export function useDrills(siteId: string) {
  const client = useQueryClient();
  const path = `/api/sites/${siteId}/drills`;
  const queryKey = ["drills", siteId];
  const book = useQuery({ queryKey, queryFn: () => request<Wire<DrillBook>>("GET", path) });
  const naming = useMutation({
    mutationFn: (asked: DrillRequest) => request<DrillOutcome>("POST", path, asked),
    onSuccess: () => void client.invalidateQueries({ queryKey }),
  });
  return {
    book: book.data ?? null,
    problem: (naming.error ?? book.error)?.message ?? null,
    /** What a naming was refused for is forgotten. */
    forget: naming.reset,
    /** What came of it; null when it was refused, and why is then `problem`. */
    judge: (asked: DrillRequest): Promise<DrillOutcome | null> => naming.mutateAsync(asked).catch(() => null),
  };
}
