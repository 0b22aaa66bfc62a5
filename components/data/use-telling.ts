"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { TellingChoice, TellingView, ToldView, WebhookAction } from "@/contracts/telling";

const OWN = ["account", "telling"];
const TOLD = ["organisation", "told"];
/** Letters and calls go out while one looks: so often they are asked for again, ms. */
const AGAIN_MS = 5000;

/** What one is told by mail. */
export function useTelling() {
  const client = useQueryClient();
  const adopt = { onSuccess: (view: TellingView) => client.setQueryData(OWN, view) };
  const view = useQuery({
    queryKey: OWN,
    queryFn: () => request<TellingView>("GET", "/api/account/telling"),
    refetchInterval: AGAIN_MS,
  });
  const choose = useMutation({
    mutationFn: (choice: TellingChoice) => request<TellingView>("PATCH", "/api/account/telling", choice),
    ...adopt,
  });
  const trial = useMutation({ mutationFn: () => request<TellingView>("POST", "/api/account/telling"), ...adopt });
  return { view: view.data ?? null, problem: view.error?.message ?? null, choose, trial };
}

/** What was not sent to anybody, and the other systems that are told. */
export function useTold() {
  const client = useQueryClient();
  const adopt = { onSuccess: ({ secret: _, ...view }: ToldView) => client.setQueryData<ToldView>(TOLD, view) };
  const view = useQuery({
    queryKey: TOLD,
    queryFn: () => request<ToldView>("GET", "/api/organisation/told"),
    refetchInterval: AGAIN_MS,
  });
  const add = useMutation({
    mutationFn: (url: string) => request<ToldView>("POST", "/api/webhooks", { url }),
    ...adopt,
  });
  const act = useMutation({
    mutationFn: ({ id, action }: { id: string; action: WebhookAction }) =>
      request<ToldView>("PATCH", `/api/webhooks/${id}`, { action }),
    ...adopt,
  });
  const remove = useMutation({
    mutationFn: (id: string) => request<ToldView>("DELETE", `/api/webhooks/${id}`),
    ...adopt,
  });
  return { view: view.data ?? null, problem: view.error?.message ?? null, add, act, remove };
}
