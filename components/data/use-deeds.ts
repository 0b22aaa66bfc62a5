"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { request } from "@/components/data/request";
import { useMany } from "@/components/data/use-many";
import type { ManyAsked } from "@/contracts/controllers";
import type { DeedView, SitePreview } from "@/contracts/deeds";
import type { DeedChange } from "@/contracts/office-change";

const KEY = ["deeds"];

/** What is being done to many sites, or was done last. */
export type Doing = "looked at" | "changed" | "taken back";

/** One change on many sites: looked at, made, and taken back, some sites at a time, with an end when somebody says so. */
export function useDeeds() {
  const client = useQueryClient();
  const deeds = useQuery({ queryKey: KEY, queryFn: () => request<{ deeds: DeedView[] }>("GET", "/api/deeds") });
  const { many, begin, stop } = useMany();
  const [doing, setDoing] = useState<Doing>("looked at");
  const [problem, setProblem] = useState<string | null>(null);

  const doTo = async <T>(what: Doing, items: readonly T[], ask: (part: T[]) => Promise<ManyAsked>): Promise<void> => {
    setDoing(what);
    setProblem(null);
    await begin(items, ask);
  };

  return {
    deeds: deeds.data?.deeds ?? null,
    many,
    doing,
    problem: problem ?? deeds.error?.message ?? null,
    stop,
    look: async (siteIds: readonly string[], change: DeedChange): Promise<SitePreview[]> => {
      const seen: SitePreview[] = [];
      await doTo("looked at", siteIds, async (part) => {
        const asked = { siteIds: part, change };
        const { sites } = await request<{ sites: SitePreview[] }>("POST", "/api/deeds/preview", asked);
        seen.push(...sites);
        return { asked: sites.length, not: [] };
      });
      return seen;
    },
    /** False where it was not even begun. */
    make: async (change: DeedChange, sites: readonly { siteId: string; version: number }[]): Promise<boolean> => {
      const id = crypto.randomUUID();
      try {
        await request("POST", "/api/deeds", { id, change });
      } catch (error) {
        setProblem(error instanceof Error ? error.message : String(error));
        return false;
      }
      await doTo("changed", sites, (part) => request<ManyAsked>("POST", `/api/deeds/${id}`, { sites: part }));
      await client.invalidateQueries({ queryKey: KEY });
      return true;
    },
    undo: async ({ id, standing }: DeedView): Promise<void> => {
      const siteIds = standing.map((s) => s.siteId);
      await doTo("taken back", siteIds, (part) =>
        request<ManyAsked>("POST", `/api/deeds/${id}/undo`, { siteIds: part }),
      );
      await client.invalidateQueries({ queryKey: KEY });
    },
  };
}
