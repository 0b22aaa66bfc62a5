"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { Calendar, CalendarAddress } from "@/contracts/calendar";
import type {
  DutyNoted,
  SiteDue,
  Todo,
  TodoChange,
  TodoMade,
  VisitBegun,
  VisitBook,
  VisitEntries,
  VisitSetup,
} from "@/contracts/visits";
import { request } from "./request";

const todosKey = (siteId: string) => ["todos", siteId];
const dueKey = (siteId: string) => ["due", siteId];

/** The visits of a site, and what there is to begin another. What is looked at may be to do, or have been done anew: both are asked for again. */
export function useVisits(siteId: string) {
  const client = useQueryClient();
  const queryKey = ["visits", siteId];
  const path = `/api/sites/${siteId}/visits`;
  const view = useQuery({ queryKey, queryFn: () => request<VisitBook>("GET", path) });
  const kept = {
    onSuccess: async (now: VisitBook) => {
      client.setQueryData(queryKey, now);
      await Promise.all([todosKey, dueKey].map((key) => client.invalidateQueries({ queryKey: key(siteId) })));
    },
  };
  const begin = useMutation({ mutationFn: (visit: VisitBegun) => request<VisitBook>("POST", path, visit), ...kept });
  const enter = useMutation({
    mutationFn: ({ visitId, ...body }: VisitEntries & { visitId: string }) =>
      request<VisitBook>("POST", `${path}/${visitId}`, body),
    ...kept,
  });
  return { book: view.data ?? null, problem: view.error?.message ?? null, begin, enter };
}

/** What is to do at a site. */
export function useTodos(siteId: string) {
  const client = useQueryClient();
  const queryKey = todosKey(siteId);
  const path = `/api/sites/${siteId}/todos`;
  type View = { todos: Todo[] };
  const view = useQuery({ queryKey, queryFn: () => request<View>("GET", path) });
  const kept = { onSuccess: (now: View) => client.setQueryData(queryKey, now) };
  const make = useMutation({ mutationFn: (todo: TodoMade) => request<View>("POST", path, todo), ...kept });
  const change = useMutation({
    mutationFn: ({ id, ...body }: TodoChange & { id: string }) => request<View>("PATCH", `${path}/${id}`, body),
    ...kept,
    // Somebody else was before: what stands now is shown beside the refusal.
    onError: () => client.invalidateQueries({ queryKey }),
  });
  return { todos: view.data?.todos ?? null, problem: view.error?.message ?? null, make, change };
}

/** What is to be done anew at a site, each with its day, and what was noted of it. */
export function useDue(siteId: string) {
  const client = useQueryClient();
  const queryKey = dueKey(siteId);
  const path = `/api/sites/${siteId}/due`;
  const view = useQuery({ queryKey, queryFn: () => request<SiteDue>("GET", path) });
  const kept = { onSuccess: (now: SiteDue) => client.setQueryData(queryKey, now) };
  const note = useMutation({ mutationFn: (noted: DutyNoted) => request<SiteDue>("POST", path, noted), ...kept });
  const takeOut = useMutation({
    mutationFn: (id: string) => request<SiteDue>("DELETE", `${path}/${id}`),
    ...kept,
  });
  return { view: view.data ?? null, problem: view.error?.message ?? null, note, takeOut };
}

const SETUP = ["visit-setup"];
/** What the organisation looks at on visits, and what it asks for by the calendar. */
export function useVisitSetup() {
  const client = useQueryClient();
  const path = "/api/organisation/visits";
  const view = useQuery({ queryKey: SETUP, queryFn: () => request<VisitSetup>("GET", path) });
  const change = useMutation({
    mutationFn: (setup: VisitSetup) => request<VisitSetup>("PATCH", path, setup),
    onSuccess: (now) => client.setQueryData(SETUP, now),
  });
  return { setup: view.data ?? null, problem: view.error?.message ?? null, change };
}

/** What stands in the calendar of every site between two days. */
export function useCalendar(from: string, to: string) {
  const client = useQueryClient();
  const path = "/api/calendar";
  const view = useQuery({
    queryKey: ["calendar", from, to],
    queryFn: () => request<Calendar>("GET", `${path}?from=${from}&to=${to}`),
    placeholderData: (before) => before,
  });
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: ["calendar"] }) };
  const makeAddress = useMutation({ mutationFn: () => request<CalendarAddress>("POST", path, {}), ...again });
  const endAddress = useMutation({ mutationFn: () => request("DELETE", path), ...again });
  return { view: view.data ?? null, problem: view.error?.message ?? null, makeAddress, endAddress };
}
