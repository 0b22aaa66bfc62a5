import { useEffect, useState } from "react";
import { Cancelled, computeRehearsal } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import { type NightMarks, staleQueue } from "@/core/learn/basis";
import { companionsFor, pumpMinimumLpm } from "@/core/learn/companions";
import { learningOrder } from "@/core/learn/order";
import { refusals } from "@/core/learn/refusals";
import type { Rehearsal } from "@/core/learn/rehearse";
import type { Waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import type { LearningState, Schedule } from "../../data/use-learning";
import type { Standing } from "./before-row";

/** Ticking goes on meanwhile, ms. */
const REHEARSED_AFTER_MS = 250;

/** Every station in the order of learning: ready or why not, stale or why, and whom its pump needs beside it. */
export function standingsOf(w: Waterworks, nights: NightMarks | null): Standing[] {
  const { site } = w;
  const refused = new Map(refusals(site).map((r) => [r.stationId, r.reasons]));
  const stale = staleQueue(w, new Date().toISOString(), nights);
  const rank = new Map(stale.map((q, i) => [q.stationId, { reasons: q.reasons, i }]));
  return learningOrder(w).map((i) => {
    const station = site.stations[i] as Station;
    const flow = expectedFlow(station)?.lpm;
    const under = station.usesPump !== false && flow !== undefined && flow < pumpMinimumLpm(w, i);
    const known = rank.get(station.id);
    return {
      station,
      reasons: refused.get(station.id) ?? [],
      stale: known?.reasons ?? [],
      beside: under ? (companionsFor(w, i)?.map((c) => String(site.stations[c]?.number)) ?? null) : null,
      rank: known?.i ?? Number.MAX_SAFE_INTEGER,
    };
  });
}

/** What a learning of these stations and sets would take, worked out while it is put together; null when it cannot be told. */
export function useRehearsal(
  picked: readonly string[],
  sets: string[][],
  when: Schedule,
  baselineMin: number,
  running: boolean,
): Rehearsal | null | "computing" {
  const { base } = useWorkspace("base");
  const [rehearsal, setRehearsal] = useState<Rehearsal | null | "computing">("computing");
  const key = picked.join("\n");
  useEffect(() => {
    if (key === "" || running) return;
    setRehearsal("computing");
    const job: { current: ReturnType<typeof computeRehearsal> | null } = { current: null };
    // A moment later: ticking ten stations asks once.
    const timer = setTimeout(() => {
      job.current = computeRehearsal(base, {
        date: when.date,
        from: when.from,
        ...(when.to ? { to: when.to } : {}),
        avoid: when.avoid,
        baselineS: baselineMin * 60,
        stationIds: key.split("\n"),
        sets,
      });
      job.current.promise.then(setRehearsal, (error: unknown) => {
        if (!(error instanceof Cancelled)) setRehearsal(null);
      });
    }, REHEARSED_AFTER_MS);
    return () => {
      clearTimeout(timer);
      job.current?.cancel();
    };
  }, [base, key, when.date, when.from, when.to, when.avoid, baselineMin, sets, running]);
  return rehearsal;
}

/** A run that ended before all its stations were done, and how many those are. */
export function leftToDo(
  view: LearningState["view"],
  stations: readonly Station[],
): { run: NonNullable<LearningState["view"]["run"]>; count: number } | null {
  const { run } = view;
  if (!run || !("pace" in run.request)) return null;
  if (run.state !== "stopped" && !(run.state === "done" && run.leftIds.length > 0)) return null;
  const wanted = run.request.stationIds ?? stations.map((s) => s.id);
  const done = new Set(
    view.results.flatMap((r) => (r.runId === run.id && r.verdict !== "stopped" ? [r.elementId] : [])),
  );
  for (const r of run.refused) done.add(r.stationId);
  return { run, count: wanted.filter((id) => !done.has(id)).length };
}
