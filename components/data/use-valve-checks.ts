"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ValveCheck, ValveCheckMade } from "@/contracts/valve-checks";
import { request } from "./request";

type View = { checks: ValveCheck[] };
/** Checks of a site's valves by wire, newest first. @param answeredAt when a controller answered such a check last: then they are asked for again */
export function useValveChecks(siteId: string, answeredAt: string | null) {
  const client = useQueryClient();
  const queryKey = ["valve-checks", siteId, answeredAt];
  const path = `/api/sites/${siteId}/valve-checks`;
  const view = useQuery({
    queryKey,
    queryFn: () => request<View>("GET", path),
    placeholderData: (before) => before,
  });
  const keep = useMutation({
    mutationFn: (made: ValveCheckMade) => request<View>("POST", path, made),
    onSuccess: (now) => client.setQueryData(queryKey, now),
  });
  return { checks: view.data?.checks ?? null, problem: view.error?.message ?? null, keep };
}
