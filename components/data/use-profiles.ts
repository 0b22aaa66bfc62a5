"use client";
import { useMemo } from "react";
import { INVENTED, type KeptProfile, type Profile } from "@/core/profiles/profile";
import { seenOf, useSharedList } from "./shared-list";

/** The organisation's kinds of controller, after the invented ones that ship. */
export function useProfiles() {
  const list = useSharedList<KeptProfile>("/api/profiles");
  const all = useMemo(() => [...INVENTED, ...list.items], [list.items]);
  return {
    ...list,
    all,
    keep: (profile: Profile) => list.send("POST", "/api/profiles", { profile, seen: seenOf(list.items, profile.name) }),
    drop: (id: string) => list.send("DELETE", `/api/profiles/${id}`),
  };
}
