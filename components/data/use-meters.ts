"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { CounterReset, CounterView, MeterEntry, MeterLog } from "@/contracts/meters";
import { request } from "./request";

/** Both counters of every flow sensor of a site. */
export function useCounters(siteId: string) {
  const client = useQueryClient();
  const queryKey = ["counters", siteId];
  const path = `/api/sites/${siteId}/counters`;
  const view = useQuery({ queryKey, queryFn: () => request<{ counters: CounterView[] }>("GET", path) });
  const reset = useMutation({
    mutationFn: (asked: CounterReset) => request<{ counters: CounterView[] }>("POST", path, asked),
    onSuccess: (now) => client.setQueryData(queryKey, now),
  });
  return { counters: view.data?.counters ?? null, problem: view.error?.message ?? null, reset };
}

/** What was read of the water meters of a site, beside their sensors. */
export function useMeterLog(siteId: string) {
  const client = useQueryClient();
  const queryKey = ["meter", siteId];
  const path = `/api/sites/${siteId}/meter`;
  const keep = { onSuccess: (now: { meters: MeterLog[] }) => client.setQueryData(queryKey, now) };
  const view = useQuery({ queryKey, queryFn: () => request<{ meters: MeterLog[] }>("GET", path) });
  const enter = useMutation({
    mutationFn: (entry: MeterEntry) => request<{ meters: MeterLog[] }>("POST", path, entry),
    ...keep,
  });
  const takeOut = useMutation({
    mutationFn: (id: string) => request<{ meters: MeterLog[] }>("DELETE", `${path}/${id}`),
    ...keep,
  });
  return { meters: view.data?.meters ?? null, problem: view.error?.message ?? null, enter, takeOut };
}
