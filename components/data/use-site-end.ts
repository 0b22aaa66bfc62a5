"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { DeletedSite } from "@/contracts/deleted-sites";

type Archived = { archived: boolean };

/** Whether a site is still worked on, and the end of it. */
export function useSiteEnd(siteId: string) {
  const client = useQueryClient();
  const key = ["site", siteId, "archive"];
  const view = useQuery({ queryKey: key, queryFn: () => request<Archived>("GET", `/api/sites/${siteId}/archive`) });
  const archive = useMutation({
    mutationFn: (archived: boolean) => request<Archived>("PATCH", `/api/sites/${siteId}/archive`, { archived }),
    onSuccess: (now) => client.setQueryData(key, now),
  });
  const remove = useMutation({
    mutationFn: (name: string) => request("DELETE", `/api/sites/${siteId}/archive`, { name }),
    onSuccess: () => window.location.assign("/"),
  });
  return { archived: view.data?.archived ?? null, archive, remove };
}

/** Sites that were deleted, with their files. */
export function useDeletedSites() {
  const list = useQuery({
    queryKey: ["deleted-sites"],
    queryFn: () => request<{ sites: DeletedSite[] }>("GET", "/api/organisation/deleted-sites"),
  });
  return { sites: list.data?.sites ?? [], problem: list.error?.message ?? null };
}
