"use client";
import { Scroller } from "@/components/kit/scroller";
import { type Standing, BeforeRow } from "./before-row";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import Link from "next/link";
import { useMemo, useState } from "react";
import { FaultList } from "@/components/screens/bench/fault-list";
import { TickField } from "@/components/kit/fields";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { waterworks } from "@/core/network/waterworks";
import type { LearningState, Schedule } from "../../data/use-learning";
import { leftToDo, standingsOf, useRehearsal } from "./learning-choice";
import { BaselineSights, Estimate, WhenForm } from "./when-form";

/** Before: each station ready or not and why, what is chosen, when, and what it will take. */
export function BeforePanel({
  learning,
  sets,
  onStarted,
}: {
  learning: LearningState;
  sets: string[][];
  onStarted: () => void;
}) {
  const { draft, siteId, canEdit, date } = useWorkspace("draft", "siteId", "canEdit", "date");
  const changes = useChanges();
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const [byRisk, setByRisk] = useState(false);
  const [when, setWhen] = useState<Schedule>({ date, from: "08:00", avoid: true, pace: 240, later: false });
  const [baselineMin, setBaselineMin] = useState(1);
  const [faults, setFaults] = useState<FaultRequest[]>([]);
  const { running, view } = learning;

  const w = useMemo(() => waterworks(draft), [draft]);
  const all = useMemo(() => standingsOf(w), [w]);
  const ready = all.filter((s) => s.reasons.length === 0);
  const picked = useMemo(
    () => ready.filter((s) => (chosen ? chosen.has(s.station.id) : true)).map((s) => s.station.id),
    [ready, chosen],
  );
  const rows = byRisk ? [...all].sort((a, b) => a.rank - b.rank) : all;

  const rehearsal = useRehearsal(picked, sets, when, baselineMin, running);

  const only = (test: (s: Standing) => boolean): void =>
    setChosen(new Set(ready.filter(test).map((s) => s.station.id)));
  const staleOnes = ready.filter((s) => s.stale.length > 0).length;
  const repaired = ready.filter((s) => s.stale.includes("repair")).length;
  const toggle = (id: string, on: boolean): void =>
    setChosen(() => {
      const next = new Set(picked);
      if (on) next.add(id);
      else next.delete(id);
      return next;
    });
  const start = async (): Promise<void> => {
    const started = await learning.start({
      stationIds: picked,
      sets,
      faults,
      seed: 1 + (Date.now() % 1000),
      baselineS: baselineMin * 60,
      ...when,
    });
    if (started) onStarted();
  };
  const left = leftToDo(view, draft.stations);
  return (
    <div className="grid lg:grid-cols-[minmax(0,1fr)_23rem] gap-x-8 gap-y-4">
      <section aria-label="What will be learned" className="min-w-0 order-2 lg:order-1">
        <div className="flex flex-wrap items-center gap-2 mb-1">
          <h3 className="text-lg mr-1">
            {ready.length} ready, {all.length - ready.length} not
          </h3>
          <Button onClick={() => setChosen(null)} disabled={!canEdit || running}>
            All ready
          </Button>
          <Button onClick={() => only((s) => s.stale.length > 0)} disabled={!canEdit || running || staleOnes === 0}>
            Stale or never learned, {staleOnes}
          </Button>
          <Button
            onClick={() => only((s) => s.stale.includes("repair"))}
            disabled={!canEdit || running || repaired === 0}
          >
            Repaired, {repaired}
          </Button>
          <Button onClick={() => setChosen(new Set())} disabled={!canEdit || running}>
            None
          </Button>
          <TickField label="greatest risk first" checked={byRisk} onCommit={setByRisk} />
        </div>
        {all.length === 0 ? (
          <p>
            No stations yet. Write them down on <Link href={`/sites/${siteId}/stations`}>Stations</Link>.
          </p>
        ) : (
          <Scroller className="max-h-[32rem]">
            <Table>
              <thead>
                <tr>
                  <th>Learn</th>
                  <th>Station</th>
                  <th className="text-right">Uses now</th>
                  <th>From, since</th>
                  <th>State</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((s) => (
                  <BeforeRow
                    key={s.station.id}
                    standing={s}
                    on={picked.includes(s.station.id)}
                    locked={!canEdit || running}
                    onToggle={toggle}
                  />
                ))}
              </tbody>
            </Table>
          </Scroller>
        )}
        <p className="text-sm text-faint mt-1">
          {byRisk
            ? "By risk: litres a week that run on the figure, times how much the reason shakes it."
            : "In the order in which they will be opened, main by main, so that each main is filled once."}
        </p>
      </section>

      <section aria-label="When" className="order-1 lg:order-2">
        <h3 className="text-lg">When</h3>
        <div className="flex flex-col gap-2 mt-1">
          <WhenForm
            when={when}
            onWhen={setWhen}
            baselineMin={baselineMin}
            onBaseline={setBaselineMin}
            running={running}
          />
          <Estimate rehearsal={picked.length === 0 && sets.length === 0 ? "nothing" : rehearsal} when={when} />
          {sets.length > 0 && (
            <p className="text-sm">
              And {sets.length} set{sets.length > 1 ? "s" : ""} after them, chosen under Sets.
            </p>
          )}
          {changes.length > 0 && (
            <p className="text-warning font-semibold">
              Save your changes first; learning runs on the saved configuration.
            </p>
          )}
          {canEdit && !running && (
            <div className="flex flex-wrap gap-2">
              <Button
                rank="main"
                onClick={() => void start()}
                disabled={(picked.length === 0 && sets.length === 0) || changes.length > 0}
              >
                {when.later
                  ? `Learn ${picked.length} at ${when.from}`
                  : `Learn ${picked.length} station${picked.length === 1 ? "" : "s"} on the bench`}
              </Button>
              {left && left.count > 0 && (
                <Button
                  onClick={() => void learning.goOn(left.run.id, when).then(onStarted)}
                  disabled={changes.length > 0}
                >
                  Go on with the {left.count} left
                </Button>
              )}
            </div>
          )}
          <BaselineSights />
          <details>
            <summary className="cursor-pointer">
              Faults on the bench{faults.length > 0 ? `, ${faults.length}` : ""}
            </summary>
            <FaultList
              date={when.date}
              faults={faults}
              onChange={setFaults}
              from="+0"
              calm="No fault: the site as it is written down."
            />
          </details>
        </div>
      </section>
    </div>
  );
}
