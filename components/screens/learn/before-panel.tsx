"use client";
import { Scroller } from "@/components/kit/scroller";
import { type Standing, BeforeRow } from "./before-row";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import Link from "next/link";
import { useMemo, useState } from "react";
import { FaultList } from "@/components/screens/bench/fault-list";
import { ChoiceField, TickField } from "@/components/kit/fields";
import { useSiteLog } from "@/components/draft/site-log";
import { Segments } from "@/components/kit/segments";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { waterworks } from "@/core/network/waterworks";
import type { LearningState, Schedule } from "../../data/use-learning";
import { leftToDo, standingsOf, useRehearsal } from "./learning-choice";
import { instantsOf, ThereForm, type ThereWhen } from "./there-form";
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
  const { there, nights } = useSiteLog();
  const [where, setWhere] = useState<"there" | "bench">(there === null ? "bench" : "there");
  const [thereWhen, setThereWhen] = useState<ThereWhen>({ later: false, date, from: "02:00" });

  const w = useMemo(() => waterworks(draft), [draft]);
  const all = useMemo(() => standingsOf(w, nights), [w, nights]);
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
  const startThere = async (): Promise<void> => {
    if (await learning.startThere({ id: crypto.randomUUID(), stationIds: picked, ...instantsOf(draft, thereWhen) }))
      onStarted();
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
          {draft.programs.length > 1 && (
            <ChoiceField
              label="Those of a program"
              hideLabel
              className="w-52"
              disabled={!canEdit || running}
              value=""
              options={[["", "those of a program…"], ...draft.programs.map((p) => [p.id, p.name] as const)]}
              onCommit={(id) => {
                const of = new Set(draft.programs.find((p) => p.id === id)?.runs.map((r) => r.stationId));
                if (id !== "") only((s) => of.has(s.station.id));
              }}
            />
          )}
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
          {there !== null && (
            <Segments
              label="Where"
              at={where}
              onChange={setWhere}
              options={[
                { id: "there", label: "At the controllers" },
                { id: "bench", label: "Rehearse on the bench" },
              ]}
            />
          )}
          {where === "there" ? (
            <ThereForm when={thereWhen} onWhen={setThereWhen} running={running} />
          ) : (
            <WhenForm
              when={when}
              onWhen={setWhen}
              baselineMin={baselineMin}
              onBaseline={setBaselineMin}
              running={running}
            />
          )}
          <Estimate rehearsal={picked.length === 0 && sets.length === 0 ? "nothing" : rehearsal} when={when} />
          {sets.length > 0 && where === "bench" && (
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
            <Begin
              where={where}
              picked={picked.length}
              sets={sets.length}
              hour={where === "there" ? hourOf(thereWhen) : hourOf(when)}
              unsaved={changes.length > 0}
              left={left?.count ?? 0}
              onBegin={() => void (where === "there" ? startThere() : start())}
              onGoOn={() => left && void learning.goOn(left.run.id, when).then(onStarted)}
            />
          )}
          <BaselineSights />
          <details hidden={where === "there"}>
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

const hourOf = ({ later, from }: { later: boolean; from: string }): string | null => (later ? from : null);

/** The buttons that begin it, in words that say what they do. */
function Begin({
  where,
  picked,
  sets,
  hour,
  unsaved,
  left,
  onBegin,
  onGoOn,
}: {
  where: "there" | "bench";
  picked: number;
  sets: number;
  hour: string | null;
  unsaved: boolean;
  left: number;
  onBegin: () => void;
  onGoOn: () => void;
}) {
  const stations = `${picked} station${picked === 1 ? "" : "s"}`;
  if (where === "there")
    return (
      <div>
        <Button rank="main" onClick={onBegin} disabled={picked === 0 || unsaved}>
          {`Learn ${stations} there${hour === null ? " now" : `, at ${hour}`}`}
        </Button>
      </div>
    );
  return (
    <div className="flex flex-wrap gap-2">
      <Button rank="main" onClick={onBegin} disabled={(picked === 0 && sets === 0) || unsaved}>
        {hour === null ? `Learn ${stations} on the bench` : `Learn ${picked} at ${hour}`}
      </Button>
      {left > 0 && (
        <Button onClick={onGoOn} disabled={unsaved}>
          Go on with the {left} left
        </Button>
      )}
    </div>
  );
}
