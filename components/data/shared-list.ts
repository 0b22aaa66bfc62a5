"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "./request";

export type SharedList<T> = {
  items: readonly T[];
  problem: string | null;
  /** True: done; what the list is then is the answer. */
  send: (method: "POST" | "DELETE", path: string, body?: unknown) => Promise<boolean>;
  /** The list as it came with something else. */
  adopt: (items: readonly T[]) => void;
};
const NONE: readonly never[] = [];

/** When the one of a name was kept that stands in the list; null where none does. */
export function seenOf(items: readonly { name: string; keptAt?: string }[], name: string): string | null {
  const plain = name.trim().toLowerCase();
  return items.find((i) => i.name.toLowerCase() === plain)?.keptAt ?? null;
}

/** A list of the organisation's at `path`, one for every component that asks; a change answers with the whole list. */
export function useSharedList<T>(path: string): SharedList<T> {
  const client = useQueryClient();
  const queryKey = [path];
  type Items = { items: readonly T[] };
  const list = useQuery({ queryKey, queryFn: () => request<Items>("GET", path), staleTime: 60_000 });
  const adopt = (items: readonly T[]): void => void client.setQueryData<Items>(queryKey, { items });
  const change = useMutation({
    mutationFn: ({ method, at, body }: { method: "POST" | "DELETE"; at: string; body: unknown }) =>
      request<Items>(method, at, body),
    onSuccess: ({ items }) => adopt(items),
    // Refused because somebody else was first: theirs is shown.
    onError: () => client.invalidateQueries({ queryKey }),
  });
  return {
    items: list.data?.items ?? NONE,
    problem: (change.error ?? list.error)?.message ?? null,
    send: (method, at, body) =>
      change.mutateAsync({ method, at, body }).then(
        () => true,
        () => false,
      ),
    adopt,
  };
}
