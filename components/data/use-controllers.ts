"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { request } from "@/components/data/request";
import { hearStream } from "./shared-stream";
import { useMany } from "./use-many";
import type {
  AnswerRequest,
  ControllerLine,
  ControllersStatus,
  Learnable,
  LearnManyRequest,
  ManyAsked,
  PlacedOrder,
} from "@/contracts/controllers";
import type { Order } from "@/core/field/orders";

/** An order or a send that is not answered is looked after so often, should a word of it be missed. */
const AGAIN_MS = 5000;
const ended = (s: ControllersStatus | undefined): boolean =>
  !s?.orders.some((o) => o.state === "waiting") && !s?.sends.some((x) => x.state === "waiting" || x.state === "sent");

/** What the controllers of a site hold, were sent and asked; asked anew whenever one of them answers. */
export function useControllers(siteId: string, version: number) {
  const client = useQueryClient();
  const queryKey = useMemo(() => ["controllers", siteId], [siteId]);
  const base = `/api/sites/${siteId}`;
  const status = useQuery({
    queryKey: [...queryKey, version],
    queryFn: () => request<ControllersStatus>("GET", `${base}/controllers`),
    staleTime: 0,
    placeholderData: (before) => before,
    refetchInterval: (q) => (ended(q.state.data) ? false : AGAIN_MS),
  });
  useEffect(() => {
    return hearStream(`${base}/field/live`, (data) => {
      const { type } = JSON.parse(data) as { type: string };
      if (type !== "reading" && type !== "events") void client.invalidateQueries({ queryKey });
    });
  }, [base, client, queryKey]);
  const change = useMutation({
    mutationFn: ({ method, path, body }: { method: "POST" | "PATCH"; path: string; body: unknown }) =>
      request<unknown>(method, `${base}${path}`, body),
    onSettled: () => client.invalidateQueries({ queryKey }),
  });
  const done = (method: "POST" | "PATCH", path: string, body: unknown): Promise<boolean> =>
    change.mutateAsync({ method, path, body }).then(
      () => true,
      () => false,
    );
  return {
    status: status.data ?? null,
    problem: (change.error ?? status.error)?.message ?? null,
    busy: change.isPending,
    send: (controllerIds: string[]) => done("POST", "/controllers", { version, controllerIds }),
    answer: (body: AnswerRequest) => done("PATCH", "/controllers", body),
    readBack: () => done("POST", "/controllers/read", {}),
    /** @returns the order; null where it was refused before it was said, and why is `problem` */
    order: (what: Order): Promise<PlacedOrder | null> =>
      change.mutateAsync({ method: "POST", path: "/orders", body: { id: crypto.randomUUID(), what } }).then(
        (o) => o as PlacedOrder,
        () => null,
      ),
  };
}

/** Controllers of one site, as many sites are asked at once. */
export type Place = { siteId: string; controllerIds: string[] };
const LOOKED_AT_ONCE = 50;
export type Line = ControllerLine & { version: number };
const KEY = ["controllers"];

/** Every controller of every site of the organisation. */
export function useAllControllers() {
  const client = useQueryClient();
  const all = useQuery({
    queryKey: KEY,
    queryFn: () => request<{ readBackAt: string; lines: Line[] }>("GET", "/api/controllers"),
    refetchInterval: AGAIN_MS,
  });
  const change = useMutation({
    mutationFn: (readBackAt: string) => request("PATCH", "/api/controllers", { readBackAt }),
    onSettled: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const { many, begin, stop } = useMany();
  const busy = many !== null && !many.ended;
  const asked = <T>(items: readonly T[], ask: (part: T[]) => Promise<ManyAsked>): Promise<void> =>
    begin(items, ask).then(() => client.invalidateQueries({ queryKey: KEY }));
  return {
    lines: all.data?.lines ?? null,
    readBackAt: all.data?.readBackAt ?? "05:00",
    problem: (change.error ?? all.error)?.message ?? null,
    setHour: (readBackAt: string) => change.mutate(readBackAt),
    many,
    busy,
    stop,
    readBack: (siteIds: string[]) =>
      asked(siteIds, (part) => request<ManyAsked>("POST", "/api/controllers/read", { siteIds: part })),
    send: (sites: (Place & { version: number })[]) =>
      asked(sites, (part) => request<ManyAsked>("POST", "/api/controllers", { sites: part })),
    learn: (sites: Place[], what: Pick<LearnManyRequest, "which" | "hours">) =>
      asked(
        sites.map((s) => ({ ...s, id: crypto.randomUUID() })),
        (part) => request<ManyAsked>("POST", "/api/controllers/learn", { ...what, sites: part }),
      ),
  };
}

/** Of each of these sites, what could be learned at its controllers; asked while the question is open. */
export function useLearnable(sites: readonly Place[], open: boolean) {
  return useQuery({
    queryKey: ["learnable", sites],
    enabled: open && sites.length > 0,
    staleTime: 0,
    queryFn: async () => {
      const found: Learnable[] = [];
      for (let i = 0; i < sites.length; i += LOOKED_AT_ONCE)
        found.push(
          ...(await request<Learnable[]>("POST", "/api/controllers/learn/ready", {
            sites: sites.slice(i, i + LOOKED_AT_ONCE),
          })),
        );
      return found;
    },
  });
}
