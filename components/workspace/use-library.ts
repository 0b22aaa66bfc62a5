"use client";
import { useCallback, useSyncExternalStore } from "react";
import type { DeviceBody, LibraryItem } from "@/core/library/library-item";
import { request } from "./api";

export type KeptItem = LibraryItem & { id: string; keptBy: string; keptAt: string };
type State = { items: KeptItem[]; problem: string | null };

let state: State = { items: [], problem: null };
let asked = false;
const listeners = new Set<() => void>();
const set = (next: State): void => {
  state = next;
  for (const l of listeners) l();
};

async function load(work: Promise<{ items: KeptItem[] }>): Promise<boolean> {
  try {
    set({ items: (await work).items, problem: null });
    return true;
  } catch (error) {
    set({ ...state, problem: error instanceof Error ? error.message : String(error) });
    return false;
  }
}

/** The organisation's own devices: asked for once, shared by every form. */
export function useLibrary(): State & { keep: (name: string, note: string, body: DeviceBody) => Promise<boolean>; drop: (id: string) => Promise<boolean>; adopt: (items: KeptItem[]) => void } {
  const now = useSyncExternalStore(
    (changed) => {
      listeners.add(changed);
      if (!asked) { asked = true; void load(request("GET", "/api/library")); }
      return () => listeners.delete(changed);
    },
    () => state,
    () => state,
  );
  return {
    ...now,
    keep: useCallback((name, note, body) => load(request("POST", "/api/library", { name, note, body })), []),
    drop: useCallback((id) => load(request("DELETE", `/api/library/${id}`)), []),
    adopt: useCallback((items) => set({ items, problem: null }), []),
  };
}
