"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { AlarmList, ClearManyRequest } from "@/contracts/alarms";
import type { ManyAsked } from "@/contracts/controllers";
import type { SiteNames } from "@/contracts/rounds";
import { request } from "./request";
import { useAlarmNews } from "./use-alarm-news";

/** Alarms over all sites that pass a filter, read again by themselves when there is news. */
export function useAlarms(query: string) {
  const client = useQueryClient();
  const list = useQuery({
    queryKey: ["alarms", query],
    queryFn: () => request<AlarmList>("GET", `/api/alarms?${query}`),
    placeholderData: (before) => before,
  });
  const sites = useQuery({
    queryKey: ["alarms", "sites"],
    queryFn: () => request<SiteNames>("GET", "/api/alarms/sites"),
    staleTime: 60_000,
  });
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: ["alarms"] });
  useAlarmNews(() => void again());
  const act = useMutation({
    mutationFn: ({ siteId, alarmId, body }: { siteId: string; alarmId: string; body: unknown }) =>
      request("POST", `/api/sites/${siteId}/alarms/${alarmId}`, body),
    onSettled: again,
  });
  const clear = useMutation({
    mutationFn: (asked: ClearManyRequest) => request<ManyAsked>("POST", "/api/alarms", asked),
    onSettled: again,
  });
  return {
    found: list.data ?? null,
    sites: sites.data?.sites ?? [],
    problem: list.error?.message ?? act.error?.message ?? null,
    act,
    clear,
  };
}
