"use client";
import { useSyncExternalStore } from "react";
import { request } from "./request";

type State<T> = { items: T[]; problem: string | null };
export type SharedList<T> = State<T> & {
  send: (method: "POST" | "DELETE", path: string, body?: unknown) => Promise<boolean>;
  adopt: (items: T[]) => void;
};

/** A list of the organisation's, asked for once at `path` and shared by every component; a change answers with the whole list. */
export function sharedList<T>(path: string): () => SharedList<T> {
  let state: State<T> = { items: [], problem: null };
  let asked = false;
  const listeners = new Set<() => void>();
  const set = (next: State<T>): void => {
    state = next;
    for (const l of listeners) l();
  };
  const take = async (work: Promise<{ items: T[] }>): Promise<boolean> => {
    try {
      set({ items: (await work).items, problem: null });
      return true;
    } catch (error) {
      set({ ...state, problem: error instanceof Error ? error.message : String(error) });
      return false;
    }
  };
  const subscribe = (changed: () => void): (() => void) => {
    listeners.add(changed);
    if (!asked) {
      asked = true;
      void take(request("GET", path));
    }
    return () => listeners.delete(changed);
  };
  const send: SharedList<T>["send"] = (method, at, body) => take(request(method, at, body));
  const adopt = (items: T[]): void => set({ items, problem: null });
  return () => ({
    ...useSyncExternalStore(
      subscribe,
      () => state,
      () => state,
    ),
    send,
    adopt,
  });
}
