"use client";
import { DateField } from "@/components/kit/date-field";
import { Button } from "@/components/kit/button";

import { useState } from "react";
import { useWorkspace } from "@/components/draft/workspace";
import { addDays } from "@/core/dates/wall-time";
import { DrillPanel } from "./drill-panel";
import { LivePanel } from "./live-panel";
import { NightPanel } from "./night-panel";
import { SweepPanel } from "./sweep-panel";

const PARTS = [
  ["night", "One night"],
  ["sweep", "Fault sweep"],
  ["drill", "Drill"],
  ["live", "Live"],
] as const;
type Part = (typeof PARTS)[number][0];

/** Rehearse: one night with faults, every fault on every station, one hidden fault to find; and the site as its gateway reads it now. */
export function BenchScreen() {
  const { date } = useWorkspace();
  const [night, setNight] = useState(date);
  const [part, setPart] = useState<Part>("night");
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-xl mr-2">Bench</h2>
        <fieldset className="flex items-end" aria-label="What to rehearse">
          {PARTS.map(([id, words]) => (
            <Button
              rank="main"
              key={id}
              className={` ${part === id ? "" : ""}`}
              aria-pressed={part === id}
              onClick={() => setPart(id)}
            >
              {words}
            </Button>
          ))}
        </fieldset>
        {part !== "live" && (
          <>
            <DateField label="Night of" required value={night} className="w-44" onCommit={(v) => v && setNight(v)} />
            <Button aria-label="Night before" onClick={() => setNight(addDays(night, -1))}>
              ←
            </Button>
            <Button aria-label="Night after" onClick={() => setNight(addDays(night, 1))}>
              →
            </Button>
          </>
        )}
      </div>
      <div hidden={part !== "night"}>
        <NightPanel date={night} shown={part === "night"} />
      </div>
      {part === "sweep" && <SweepPanel date={night} />}
      {part === "drill" && <DrillPanel date={night} />}
      {part === "live" && <LivePanel />}
    </>
  );
}
