"use client";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { By, OfficeWater, Step, WaterUsed } from "@/contracts/water";
import { request } from "./request";

/** Water that a site used: by month over the last year, or by day in one month (2026-11). */
export function useWater(siteId: string, { by, month }: { by: By; month: string | null }) {
  const step: Step = month === null ? "month" : "day";
  const asked = new URLSearchParams({
    by,
    step,
    ...(month !== null && { from: `${month}-01`, to: `${month}-${lastDay(month)}` }),
  });
  const water = useQuery({
    queryKey: ["water", siteId, asked.toString()],
    queryFn: () => request<WaterUsed>("GET", `/api/sites/${siteId}/water?${asked}`),
    placeholderData: keepPreviousData,
  });
  return { used: water.data ?? null, problem: water.error?.message ?? null };
}

/** Water of all sites in twelve months, the last of them `to` (2026-11). */
export function useOfficeWater(from: string, to: string) {
  const water = useQuery({
    queryKey: ["water", from, to],
    queryFn: () => request<OfficeWater>("GET", `/api/water?from=${from}&to=${to}`),
    placeholderData: keepPreviousData,
  });
  return { water: water.data ?? null, problem: water.error?.message ?? null };
}

const lastDay = (month: string): number =>
  new Date(Date.UTC(Number(month.slice(0, 4)), Number(month.slice(5, 7)), 0)).getUTCDate();
