"use client";
import dynamic from "next/dynamic";
import { BookPlus, Play } from "lucide-react";
import { useState } from "react";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { NumberField, TickField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { Progress } from "@/components/kit/progress";
import type { BraidRun } from "@/components/pictures/braid/braid-data";
import type { FaultKind } from "@/core/bench/faults/kinds";
import { subjectName } from "@/core/judge/alarm-words";
import { faultOnRun } from "./drop-fault";
import { FaultList, useFirstStart } from "./fault-list";
import { FaultPalette } from "./fault-palette";
import { PlannedNight } from "./planned-night";
import { useBench } from "./use-bench";

/** What comes after a run is loaded then. */
const RunNight = dynamic(() => import("./run-night").then((m) => m.RunNight));

/** Rehearse a night: its braid with faults to drop on it; run, what would be shut off, when, why, and what it costs. */
export function NightPanel({ date, shown }: { date: string; shown: boolean }) {
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  const changes = useChanges();
  const bench = useBench(date);
  const first = useFirstStart(date);
  const [armed, setArmed] = useState<FaultKind | null>(null);
  const { run, faults } = bench;
  const drop = (kind: FaultKind, on: BraidRun): void => {
    const fault = first === null ? null : faultOnRun(draft, kind, on, first);
    setArmed(null);
    if (fault) bench.put({ faults: [...faults, fault] });
  };
  return (
    <>
      <div className="mb-1 flex flex-wrap items-end gap-3">
        {bench.share === null ? (
          <Button rank="main" icon={Play} onClick={bench.start}>
            Run the night
          </Button>
        ) : (
          <>
            <Progress className="w-40 self-center" value={bench.share} max={1} aria-label="Bench" />
            <Button onClick={bench.giveUp}>Cancel</Button>
          </>
        )}
        <TickField
          label="exact (no noise, full mains)"
          checked={bench.exact}
          onCommit={(exact) => bench.put({ exact })}
        />
        <NumberField
          label="Seed"
          className="w-20"
          value={bench.seed}
          min={0}
          max={1e9}
          whole
          required
          onCommit={(v) => bench.put({ seed: v ?? 1 })}
        />
        {run && canEdit && (
          <Button
            icon={BookPlus}
            onClick={bench.take}
            disabled={changes.length > 0 || bench.taken !== null}
            title={changes.length > 0 ? "Save your changes first" : undefined}
          >
            Take this night into the log
          </Button>
        )}
        <div className={faults.length > 0 ? "basis-full" : ""}>
          <FaultList
            faults={faults}
            date={date}
            onChange={(next) => bench.put({ faults: next })}
            calm="No fault: an ordinary night. It opens no real valves."
          />
        </div>
      </div>
      {bench.problem && <Problem className="my-2">{bench.problem}</Problem>}
      {bench.taken !== null && run && (
        <p role="status" className="my-2 font-semibold">
          In the log: {bench.taken} alarm{bench.taken === 1 ? "" : "s"}
          {run.result.lockouts.length > 0
            ? `; locked out ${run.result.lockouts.map((id) => subjectName(draft, id)).join(", ")}`
            : ""}
          .
        </p>
      )}
      <FaultPalette
        armed={armed}
        onArm={setArmed}
        onDrop={(kind, key) => {
          const on = document.querySelector<HTMLElement>(`[data-run="${CSS.escape(key)}"]`)?.dataset;
          if (on) {
            const [stationId = "", programId = "", start = ""] = key.split("|");
            drop(kind, { stationId, programId, start, end: on["end"] ?? start, cycle: 1, flowLpm: null });
          }
        }}
      >
        {run ? (
          <RunNight run={run} shown={shown} armed={armed} onDrop={drop} current={bench.current} onStart={bench.start} />
        ) : (
          <PlannedNight date={date} shown={shown} armed={armed} onDrop={drop} onStart={bench.start} />
        )}
      </FaultPalette>
    </>
  );
}
