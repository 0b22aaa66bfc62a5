"use client";
import type { DeviceBody, LibraryItem } from "@/core/library/library-item";
import { seenOf, useSharedList } from "./shared-list";

export type KeptItem = LibraryItem & { id: string; keptBy: string; keptAt: string };

/** The organisation's own devices. */
export function useLibrary() {
  const list = useSharedList<KeptItem>("/api/library");
  return {
    ...list,
    keep: (name: string, note: string, body: DeviceBody) => {
      const seen = seenOf(
        list.items.filter((i) => i.body.kind === body.kind),
        name,
      );
      return list.send("POST", "/api/library", { name, note, body, seen });
    },
    drop: (id: string) => list.send("DELETE", `/api/library/${id}`),
  };
}
