"use client";
import type { DeviceBody, LibraryItem } from "@/core/library/library-item";
import { useSharedList } from "./shared-list";

export type KeptItem = LibraryItem & { id: string; keptBy: string; keptAt: string };

/** The organisation's own devices. */
export function useLibrary() {
  const list = useSharedList<KeptItem>("/api/library");
  return {
    ...list,
    keep: (name: string, note: string, body: DeviceBody) => list.send("POST", "/api/library", { name, note, body }),
    drop: (id: string) => list.send("DELETE", `/api/library/${id}`),
  };
}
