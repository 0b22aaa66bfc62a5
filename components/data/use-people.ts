"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { MadeLink, PeopleView, PersonAction, Role } from "@/contracts/people";

const KEY = ["people"];

/** Who is in the organisation, and what its managers do about them. */
export function usePeople() {
  const client = useQueryClient();
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: KEY }) };
  const view = useQuery({ queryKey: KEY, queryFn: () => request<PeopleView>("GET", "/api/people") });
  const invite = useMutation({
    mutationFn: (asked: { email: string; role: Role }) => request<MadeLink>("POST", "/api/people", asked),
    ...again,
  });
  const withdraw = useMutation({
    mutationFn: (id: string) => request("DELETE", `/api/people/invitations/${id}`),
    ...again,
  });
  const act = useMutation({
    mutationFn: ({ id, ...asked }: PersonAction & { id: string }) =>
      request<{ link: MadeLink | null }>("PATCH", `/api/people/${id}`, asked),
    ...again,
  });
  const takeOut = useMutation({ mutationFn: (id: string) => request("DELETE", `/api/people/${id}`), ...again });
  return { view: view.data ?? null, problem: view.error?.message ?? null, invite, withdraw, act, takeOut };
}
