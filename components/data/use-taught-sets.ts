"use client";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { request } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import type { MorningsStatus } from "@/contracts/mornings";
import { LiveJudge } from "@/core/field/live-judge";
import { setKey } from "@/core/judge/set-ratio";
import { TAUGHT_BY_NIGHTS, type TaughtSet, taughtOf, withTaughtSets } from "@/core/judge/taught-sets";
import { morningsKey, morningsPath } from "./use-mornings";

const NONE: TaughtSet[] = [];
/** Nights are reckoned in the morning. */
const FRESH_MS = 600_000;

/** What the nights of the site say of its sets. */
export function useTaughtSets(): TaughtSet[] {
  const { siteId } = useWorkspace("siteId");
  const asked = useQuery({
    queryKey: morningsKey(siteId),
    queryFn: () => request<MorningsStatus>("GET", morningsPath(siteId)),
    staleTime: FRESH_MS,
  });
  return asked.data?.sets ?? NONE;
}

/** The judge of the site as the draft has it and as its nights taught its sets; and by what a set's expected flow is known, in words. */
export function useLiveJudge(): { judge: LiveJudge; known: (open: readonly string[]) => string } {
  const { draft } = useWorkspace("draft");
  const sets = useTaughtSets();
  return useMemo(() => {
    const taught = taughtOf(draft, sets);
    const learned = new Set((draft.setRatios ?? []).map((r) => setKey(r.stationIds)));
    return {
      judge: new LiveJudge(withTaughtSets(draft, sets)),
      known: (open) => {
        if (open.length < 2) return "";
        const by = taught(open);
        if (by && by.nights >= TAUGHT_BY_NIGHTS) return `, as ${by.nights} nights read this set`;
        if (learned.has(setKey(open))) return ", as this set was learned";
        return by ? ", by what the network leaves this set" : ", by the sum of its stations";
      },
    };
  }, [draft, sets]);
}
