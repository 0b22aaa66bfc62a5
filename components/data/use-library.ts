"use client";
import type { DeviceBody, LibraryItem } from "@/core/library/library-item";
import { sharedList } from "./shared-list";

export type KeptItem = LibraryItem & { id: string; keptBy: string; keptAt: string };

const useItems = sharedList<KeptItem>("/api/library");

/** The organisation's own devices. */
export function useLibrary() {
  const list = useItems();
  return {
    ...list,
    keep: (name: string, note: string, body: DeviceBody) => list.send("POST", "/api/library", { name, note, body }),
    drop: (id: string) => list.send("DELETE", `/api/library/${id}`),
  };
}
