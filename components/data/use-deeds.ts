"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { request } from "@/components/data/request";
import type { ManyAsked } from "@/contracts/controllers";
import { type DeedView, type SitePreview, SITES_AT_ONCE } from "@/contracts/deeds";
import type { ManyChange } from "@/core/many/many-change";

const KEY = ["deeds"];

/** How far looking at many sites, or changing them, has come. */
export type HowFar = { doing: "looking" | "changing" | "undoing"; done: number; of: number };
/** What came of it: of how many, and which were left and why. */
export type Came = ManyAsked & { doing: "changing" | "undoing"; of: number };

/** One change on many sites: looked at, made, and taken back, some sites at a time, with an end when somebody says so. */
export function useDeeds() {
  const client = useQueryClient();
  const deeds = useQuery({ queryKey: KEY, queryFn: () => request<{ deeds: DeedView[] }>("GET", "/api/deeds") });
  const [far, setFar] = useState<HowFar | null>(null);
  const [came, setCame] = useState<Came | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const stopped = useRef(false);

  const inParts = async <T>(doing: HowFar["doing"], items: readonly T[], ask: (part: T[]) => Promise<void>) => {
    stopped.current = false;
    setProblem(null);
    setCame(null);
    try {
      for (let done = 0; done < items.length && !stopped.current; done += SITES_AT_ONCE) {
        setFar({ doing, done, of: items.length });
        await ask(items.slice(done, done + SITES_AT_ONCE));
      }
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      setFar(null);
    }
  };
  const outcome = async <T>(doing: Came["doing"], items: readonly T[], ask: (part: T[]) => Promise<ManyAsked>) => {
    let sum: ManyAsked = { asked: 0, not: [] };
    await inParts(doing, items, async (part) => {
      const one = await ask(part);
      sum = { asked: sum.asked + one.asked, not: [...sum.not, ...one.not] };
    });
    setCame({ ...sum, doing, of: items.length });
    await client.invalidateQueries({ queryKey: KEY });
  };

  return {
    deeds: deeds.data?.deeds ?? null,
    far,
    came,
    problem: problem ?? deeds.error?.message ?? null,
    stop: () => {
      stopped.current = true;
    },
    look: async (siteIds: readonly string[], change: ManyChange): Promise<SitePreview[]> => {
      const seen: SitePreview[] = [];
      await inParts("looking", siteIds, async (part) => {
        const { sites } = await request<{ sites: SitePreview[] }>("POST", "/api/deeds/preview", {
          siteIds: part,
          change,
        });
        seen.push(...sites);
      });
      return seen;
    },
    /** False where it was not even begun. */
    make: async (change: ManyChange, sites: readonly { siteId: string; version: number }[]): Promise<boolean> => {
      const id = crypto.randomUUID();
      try {
        await request("POST", "/api/deeds", { id, change });
      } catch (error) {
        setProblem(error instanceof Error ? error.message : String(error));
        return false;
      }
      await outcome("changing", sites, (part) => request<ManyAsked>("POST", `/api/deeds/${id}`, { sites: part }));
      return true;
    },
    undo: ({ id, standing }: DeedView): Promise<void> =>
      outcome(
        "undoing",
        standing.map((s) => s.siteId),
        (part) => request<ManyAsked>("POST", `/api/deeds/${id}/undo`, { siteIds: part }),
      ),
  };
}
