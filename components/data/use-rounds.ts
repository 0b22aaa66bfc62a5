"use client";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import type { RoundsChoice, RoundsPage, RoundsPlaces } from "@/contracts/rounds";
import { request } from "./request";

/** However much news comes, a page is asked for again no oftener, ms. */
const AGAIN_MS = 1000;

/** What came with the page itself. @property text a page of Rounds as JSON: as one text it goes through the drawing of a page, as rows it would be taken apart @property at when it was so, ms since 1970 */
export type FirstRounds = { asked: string; text: string; at: number };

/** A page of Rounds as the address asks for it, the first as it came with the page; what stood before stays until it is there. `again` asks anew, now and then where much changes. */
export function useRounds(asked: string, first: FirstRounds | null = null) {
  const came = first?.asked === asked ? first : null;
  const client = useQueryClient();
  const page = useQuery({
    queryKey: ["rounds", "page", asked],
    queryFn: () => request<RoundsPage>("GET", `/api/rounds?${asked}`),
    placeholderData: keepPreviousData,
    ...(came && { initialData: () => JSON.parse(came.text) as RoundsPage, initialDataUpdatedAt: came.at }),
  });
  const waiting = useRef<ReturnType<typeof setTimeout> | null>(null);
  useEffect(() => () => clearTimeout(waiting.current ?? undefined), []);
  const again = useCallback(() => {
    waiting.current ??= setTimeout(() => {
      waiting.current = null;
      void client.invalidateQueries({ queryKey: ["rounds", "page"] });
    }, AGAIN_MS);
  }, [client]);
  return { page: page.data ?? null, asking: page.isPlaceholderData, problem: page.error?.message ?? null, again };
}

/** Where the sites are that the address asks for. */
export function useRoundsPlaces(asked: string) {
  const list = useQuery({
    queryKey: ["rounds", "places", asked],
    queryFn: () => request<RoundsPlaces>("GET", `/api/rounds/places?${asked}`),
    placeholderData: keepPreviousData,
  });
  return { found: list.data ?? null, problem: list.error?.message ?? null };
}

/** What sites may be found by; nothing until it is known. */
export function useRoundsChoices(): RoundsChoice[] {
  const list = useQuery({
    queryKey: ["rounds", "choices"],
    queryFn: () => request<{ choices: RoundsChoice[] }>("GET", "/api/rounds/choices"),
    staleTime: 60_000,
  });
  return list.data?.choices ?? [];
}
