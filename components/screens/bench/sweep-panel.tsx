"use client";
import { useConventions } from "@/components/kit/conventions";
import { Mark, Problem } from "@/components/kit/notice";
import { Progress } from "@/components/kit/progress";
import { Button } from "@/components/kit/button";
import { type FaultKind, faultWords } from "@/core/bench/faults/kinds";
import { useState } from "react";
import { TickField } from "@/components/kit/fields";
import { computeSweep } from "@/components/draft/compute";
import { useJob } from "@/components/draft/use-job";
import { useWorkspace } from "@/components/draft/site-draft";
import { SWEPT, SWEPT_ON_MAINS, SWEPT_ON_STATIONS, sweepSubjects, type SweptPolicy } from "@/core/bench/sweep";
import { policyFrom, SCHOOLS } from "@/core/limits/schools";
import { type SweepRun, SweepResults } from "./sweep-results";

/** Every station × every fault × chosen policies: what would be found, what not, what it costs, and the ten worst gaps. */
export function SweepPanel({ date }: { date: string }) {
  const { draft } = useWorkspace("draft");
  const { date: write } = useConventions();
  const all: (SweptPolicy & { id: string })[] = [
    { id: "own", name: "as it stands", policy: draft.policy },
    ...SCHOOLS.map((s) => ({ id: s.id, name: s.name, policy: policyFrom(draft, s) })),
  ];
  const [kinds, setKinds] = useState<ReadonlySet<FaultKind>>(new Set(["brokenLateral", "stuckClosed"]));
  const [policies, setPolicies] = useState<ReadonlySet<string>>(new Set(["own"]));
  const [run, setRun] = useState<SweepRun | null>(null);
  const { problem, start: begin, cancel } = useJob<true>();
  const [nothing, setNothing] = useState(false);
  const start = async (): Promise<void> => {
    const chosenKinds = SWEPT.filter((k) => kinds.has(k));
    const chosen = all.filter((p) => policies.has(p.id)).map(({ name, policy }) => ({ name, policy }));
    const subjectIds = sweepSubjects(draft, date, chosenKinds);
    setNothing(subjectIds.length === 0);
    if (subjectIds.length === 0) return;
    setRun({
      site: draft,
      date,
      kinds: chosenKinds,
      policies: chosen.map((p) => p.name),
      cells: [],
      of: subjectIds.length,
      done: 0,
      state: "running",
    });
    const asked = { date, kinds: chosenKinds, policies: chosen, subjectIds };
    const came = await begin(() => {
      const job = computeSweep(draft, asked, (cells) =>
        setRun((r) => (r ? { ...r, cells: [...r.cells, ...cells], done: r.done + 1 } : r)),
      );
      return { promise: job.promise.then(() => true as const), cancel: job.cancel };
    });
    setRun((r) => (r ? { ...r, state: came ? "done" : "stopped" } : r));
  };
  const toggle = <T,>(set: ReadonlySet<T>, value: T, on: boolean): ReadonlySet<T> => {
    const next = new Set(set);
    if (on) next.add(value);
    else next.delete(value);
    return next;
  };
  const running = run?.state === "running";
  return (
    <section aria-label="Fault sweep">
      <p className="max-w-prose mb-2">
        Drops every fault chosen on every station, one at a time, as it first opens on the night of {write(date)}, on
        every main, supply, pump and sensor a minute after its first station, and plays each night to its end under each
        policy: exact flows, no noise.
      </p>
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2 mb-2">
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">On stations</legend>
          {SWEPT_ON_STATIONS.map((k) => (
            <span key={k} className="mr-4">
              <TickField
                label={faultWords(k)}
                checked={kinds.has(k)}
                onCommit={(on) => setKinds(toggle(kinds, k, on))}
              />
            </span>
          ))}
        </fieldset>
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">On mains, supplies and sensors</legend>
          {SWEPT_ON_MAINS.map((k) => (
            <span key={k} className="mr-4">
              <TickField
                label={faultWords(k)}
                checked={kinds.has(k)}
                onCommit={(on) => setKinds(toggle(kinds, k, on))}
              />
            </span>
          ))}
        </fieldset>
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">Policies</legend>
          {all.map((p) => (
            <span key={p.id} className="mr-4">
              <TickField
                label={p.name}
                checked={policies.has(p.id)}
                onCommit={(on) => setPolicies(toggle(policies, p.id, on))}
              />
            </span>
          ))}
        </fieldset>
        {running ? (
          <span className="inline-flex items-center gap-2 self-end">
            <Progress className="w-40" value={run.done} max={run.of} aria-label="Sweep" />
            <span>{run.cells.length} nights</span>
            <Button onClick={cancel}>Stop, keep these</Button>
          </span>
        ) : (
          <Button
            rank="main"
            className="self-end"
            disabled={kinds.size === 0 || policies.size === 0 || draft.stations.length === 0}
            onClick={() => void start()}
          >
            Sweep {draft.stations.length} stations, {kinds.size} fault{kinds.size === 1 ? "" : "s"}, {policies.size}{" "}
            polic{policies.size === 1 ? "y" : "ies"}
          </Button>
        )}
      </div>
      {problem && <Problem>{problem}</Problem>}
      {nothing && <Problem>Nothing that these faults belong on runs on this date.</Problem>}
      {run && run.site !== draft && (
        <p className="text-warning">
          <Mark tone="caution" /> swept before the last change
        </p>
      )}
      {run && run.cells.length > 0 && <SweepResults run={run} />}
    </section>
  );
}
