"use client";
import { INVENTED, type KeptProfile, type Profile } from "@/core/profiles/profile";
import { sharedList } from "./shared-list";

const useItems = sharedList<KeptProfile>("/api/profiles");

/** The organisation's kinds of controller, after the invented ones that ship. */
export function useProfiles() {
  const list = useItems();
  return {
    ...list,
    all: [...INVENTED, ...list.items],
    keep: (profile: Profile) => list.send("POST", "/api/profiles", profile),
    drop: (id: string) => list.send("DELETE", `/api/profiles/${id}`),
  };
}
