"use client";
import { useConventions } from "@/components/kit/conventions";
import { type Standing, BeforeRow } from "./before-row";
import { Mark } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { DateField } from "@/components/kit/date-field";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { Radio, Select } from "@/components/kit/inputs";
import Link from "next/link";
import { useEffect, useMemo, useState } from "react";
import { FaultList } from "@/components/screens/bench/fault-list";
import { NumberField, TickField } from "@/components/kit/fields";
import { Cancelled, computeRehearsal } from "@/components/draft/compute";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { baselineSights } from "@/core/learn/baseline";
import { staleQueue } from "@/core/learn/basis";
import { companionsFor, pumpMinimumLpm } from "@/core/learn/companions";
import { learningOrder } from "@/core/learn/order";
import { refusals } from "@/core/learn/refusals";
import type { Rehearsal } from "@/core/learn/rehearse";
import { waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import type { LearningState, Schedule } from "../../data/use-learning";
import { duration, WAITS } from "./words";

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
  const { draft, base, siteId, units, canEdit, date } = useWorkspace(
    "draft",
    "base",
    "siteId",
    "units",
    "canEdit",
    "date",
  );
  const { date: write } = useConventions();
  const changes = useChanges();
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const [byRisk, setByRisk] = useState(false);
  const [when, setWhen] = useState<Schedule>({ date, from: "08:00", avoid: true, pace: 240, later: false });
  const [baselineMin, setBaselineMin] = useState(1);
  const [faults, setFaults] = useState<FaultRequest[]>([]);
  const [rehearsal, setRehearsal] = useState<Rehearsal | null | "computing">("computing");
  const { running, view } = learning;

  const w = useMemo(() => waterworks(draft), [draft]);
  const all = useMemo((): Standing[] => {
    const refused = new Map(refusals(draft).map((r) => [r.stationId, r.reasons]));
    const stale = staleQueue(w, new Date().toISOString());
    const rank = new Map(stale.map((q, i) => [q.stationId, { reasons: q.reasons, i }]));
    return learningOrder(w).map((i) => {
      const station = draft.stations[i] as Station;
      const flow = expectedFlow(station)?.lpm;
      const under = station.usesPump !== false && flow !== undefined && flow < pumpMinimumLpm(w, i);
      const known = rank.get(station.id);
      return {
        station,
        reasons: refused.get(station.id) ?? [],
        stale: known?.reasons ?? [],
        beside: under ? (companionsFor(w, i)?.map((c) => String(draft.stations[c]?.number)) ?? null) : null,
        rank: known?.i ?? Number.MAX_SAFE_INTEGER,
      };
    });
  }, [draft, w]);
  const sights = useMemo(() => baselineSights(w), [w]);
  const ready = all.filter((s) => s.reasons.length === 0);
  const picked = useMemo(
    () => ready.filter((s) => (chosen ? chosen.has(s.station.id) : true)).map((s) => s.station.id),
    [ready, chosen],
  );
  const rows = byRisk ? [...all].sort((a, b) => a.rank - b.rank) : all;
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
    }, 250);
    return () => {
      clearTimeout(timer);
      job.current?.cancel();
    };
  }, [base, key, when.date, when.from, when.to, when.avoid, baselineMin, sets, running]);

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
  const leftRun =
    view.run &&
    (view.run.state === "stopped" || (view.run.state === "done" && view.run.leftIds.length > 0)) &&
    "pace" in view.run.request
      ? view.run
      : null;
  const notDone = leftRun
    ? (("pace" in leftRun.request ? leftRun.request.stationIds : null) ?? draft.stations.map((s) => s.id)).filter(
        (id) =>
          !view.results.some((r) => r.runId === leftRun.id && r.elementId === id && r.verdict !== "stopped") &&
          !leftRun.refused.some((r) => r.stationId === id),
      ).length
    : 0;
  const estimate = rehearsal !== "computing" ? rehearsal : null;

  const nothing = picked.length === 0 && sets.length === 0;
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
          <div className="max-h-[32rem] overflow-auto">
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
          </div>
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
          <div className="grid grid-cols-3 gap-2">
            <DateField
              label="Date"
              required
              value={when.date}
              disabled={running}
              className="w-44"
              onCommit={(v) => v && setWhen({ ...when, date: v })}
            />
            <TimeField
              label="From"
              required
              value={when.from}
              disabled={running}
              onCommit={(v) => v && setWhen({ ...when, from: v })}
            />
            <TimeField
              label="None past"
              value={when.to}
              disabled={running}
              onCommit={(v) => {
                const { to: _, ...rest } = when;
                setWhen(v ? { ...rest, to: v } : rest);
              }}
            />
          </div>
          <p className="text-sm text-faint">Hand-watering hours and scheduled runs are waited for.</p>
          <fieldset className="flex flex-wrap gap-x-4">
            <legend className="sr-only">Start</legend>
            <label className="inline-flex min-h-8 items-center gap-2">
              <Radio
                name="later"
                checked={!when.later}
                disabled={running}
                onChange={() => setWhen({ ...when, later: false })}
              />
              start now, the bench's clock at {when.from}
            </label>
            <label className="inline-flex min-h-8 items-center gap-2">
              <Radio
                name="later"
                checked={when.later}
                disabled={running}
                onChange={() => setWhen({ ...when, later: true })}
              />
              start when that hour comes
            </label>
          </fieldset>
          <div className="grid grid-cols-2 gap-2">
            <NumberField
              label="Baseline"
              unit="min"
              value={baselineMin}
              min={0.5}
              max={60}
              required
              disabled={running}
              onCommit={(v) => setBaselineMin(v ?? 1)}
            />
            <label>
              <span className="block text-sm text-faint">Pace of the bench</span>
              <Select
                value={when.pace}
                onChange={(e) => setWhen({ ...when, pace: Number(e.target.value) })}
                disabled={running}
              >
                <option value={1}>as on site, 1 s a second</option>
                <option value={60}>a minute a second</option>
                <option value={240}>4 minutes a second</option>
                <option value={0}>as fast as it computes</option>
              </Select>
            </label>
          </div>
          {sights.map((s) => (
            <p key={s.pocs.join()} className="text-sm">
              <strong>{s.pocs.map((p) => draft.pocs[p]?.name).join(", ")}</strong>:{" "}
              {s.blind && "the baseline test is blind here, since with the pump off nothing stands under pressure."}
              {!s.blind && s.limitLpm > 0 && (
                <>
                  with everything closed, a leak shows from{" "}
                  <strong>{showQuantity(s.limitLpm, "flow", units, 1)}</strong> on. A smaller one hides: read the meter
                  before and after.
                </>
              )}
              {!s.blind && s.limitLpm <= 0 && "its sensor states no minimum; every reading counts as a leak."}
            </p>
          ))}
          <p role="status" aria-live="polite" className="border-l-4 pl-3 py-1" style={{ borderColor: "var(--water)" }}>
            {nothing && "Choose a station."}
            {!nothing && rehearsal === "computing" && "Working out what it takes…"}
            {!nothing && rehearsal === null && "What it takes could not be worked out; learning itself is not held up."}
            {!nothing && rehearsal !== "computing" && estimate && (
              <>
                <strong>{duration(estimate.seconds)}</strong> of site time,{" "}
                <strong>{showQuantity(estimate.litres, "volume", units)}</strong>; ends{" "}
                {estimate.endsAt.slice(0, 10) === when.date ? "" : `${write(estimate.endsAt.slice(0, 10))} `}
                <strong>{estimate.endsAt.slice(11, 16)}</strong>. What does not settle adds up to{" "}
                {duration(estimate.atMostMoreS)}.
                {estimate.waits.map((x) => (
                  <span key={x.from + x.why} className="block">
                    Waits for {WAITS[x.why]}, {x.from.slice(11, 16)} to {x.to.slice(11, 16)}.
                  </span>
                ))}
                {estimate.leftIds.length > 0 && (
                  <span className="block text-warning font-semibold">
                    <Mark tone="caution" /> Until {when.to} it leaves {estimate.leftIds.length} station
                    {estimate.leftIds.length > 1 ? "s" : ""}; go on with them later.
                  </span>
                )}
              </>
            )}
          </p>
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
              {leftRun && notDone > 0 && (
                <Button
                  onClick={() => void learning.goOn(leftRun.id, when).then(onStarted)}
                  disabled={changes.length > 0}
                >
                  Go on with the {notDone} left
                </Button>
              )}
            </div>
          )}
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
