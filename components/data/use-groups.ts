"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { GroupsView, SortRequest } from "@/contracts/groups";

const KEY = ["groups"];

/** What the organisation's sites are sorted by, and putting them there. */
export function useGroups() {
  const client = useQueryClient();
  const adopt = { onSuccess: (view: GroupsView) => client.setQueryData(KEY, view) };
  const view = useQuery({ queryKey: KEY, queryFn: () => request<GroupsView>("GET", "/api/groups") });
  const sort = useMutation({
    mutationFn: ({ siteId, ...asked }: SortRequest & { siteId: string }) =>
      request<GroupsView>("PATCH", `/api/sites/${siteId}/groups`, asked),
    ...adopt,
  });
  const rename = useMutation({
    mutationFn: ({ id, name }: { id: string; name: string }) =>
      request<GroupsView>("PATCH", `/api/groups/${id}`, { name }),
    ...adopt,
  });
  return { view: view.data ?? null, problem: view.error?.message ?? null, sort, rename };
}
