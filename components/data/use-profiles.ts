"use client";
import { INVENTED, type KeptProfile, type Profile } from "@/core/profiles/profile";
import { useSharedList } from "./shared-list";

/** The organisation's kinds of controller, after the invented ones that ship. */
export function useProfiles() {
  const list = useSharedList<KeptProfile>("/api/profiles");
  return {
    ...list,
    all: [...INVENTED, ...list.items],
    keep: (profile: Profile) => list.send("POST", "/api/profiles", profile),
    drop: (id: string) => list.send("DELETE", `/api/profiles/${id}`),
  };
}
