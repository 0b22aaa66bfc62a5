"use client";
import { BookPlus, Play } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ReadingsChart } from "@/components/charts/readings-chart";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useNightOf } from "@/components/draft/use-night-of";
import { Button } from "@/components/kit/button";
import { NumberField, TickField } from "@/components/kit/fields";
import { InspectorHead, WithInspector } from "@/components/kit/inspector";
import { Problem } from "@/components/kit/notice";
import { Progress } from "@/components/kit/progress";
import { isTyping } from "@/components/kit/typing";
import { useWidth } from "@/components/kit/use-width";
import { Braid } from "@/components/pictures/braid/braid";
import { type BraidRun, braidOf, runKey, seconds, whyThen } from "@/components/pictures/braid/braid-data";
import type { Stone } from "@/components/pictures/braid/stones";
import type { FaultKind } from "@/core/bench/faults/kinds";
import { localIso } from "@/core/dates/wall-time";
import { subjectName } from "@/core/judge/alarm-words";
import { showNumber } from "@/core/units/units";
import { BenchResult } from "./bench-result";
import { faultOnRun } from "./drop-fault";
import { eventBeside, EventList, eventsOf } from "./event-list";
import { FaultList, useFirstStart } from "./fault-list";
import { FaultPalette } from "./fault-palette";
import { Playback } from "./playback";
import { type BenchRun, useBench } from "./use-bench";
import { WhatElsePanel } from "./what-else";

const STONE_WORDS: Record<string, string> = { stationHigh: "high", stationLow: "low" };
const USUAL_PX = 500;

function stonesOf({ result, file }: BenchRun): Stone[] {
  return result.alarms.slice(0, 12).map((a) => ({
    at: seconds(a.at),
    words: `${STONE_WORDS[a.kind] ?? a.kind}: ${subjectName(file, a.subjectId)}`,
    mainlineId:
      file.stations.find((s) => s.id === a.subjectId)?.mainlineId ??
      (file.mainlines.some((m) => m.id === a.subjectId) ? a.subjectId : null),
  }));
}

/** Keys of a night that was run: Space runs or plays, brackets go from event to event. */
function useBenchKeys(shown: boolean, onSpace: () => void, onEvent: (step: 1 | -1) => void): void {
  const act = useRef({ onSpace, onEvent });
  useEffect(() => {
    act.current = { onSpace, onEvent };
  });
  useEffect(() => {
    if (!shown) return;
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey || document.querySelector("dialog[open]")) return;
      const pressable = (e.target as HTMLElement).closest("button,[role=button],[role=slider],[role=tab],summary,a");
      if (e.key === " " && !pressable) {
        e.preventDefault();
        act.current.onSpace();
      }
      if (e.key === "]" || e.key === "[") act.current.onEvent(e.key === "]" ? 1 : -1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [shown]);
}

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
      </div>
      <FaultList
        faults={faults}
        date={date}
        onChange={(next) => bench.put({ faults: next })}
        calm="No fault: an ordinary night. It opens no real valves."
      />
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

type Dropping = { armed: FaultKind | null; onDrop: (kind: FaultKind, on: BraidRun) => void };

/** Before anything was run: tonight's braid, to drop faults on. */
function PlannedNight({
  date,
  shown,
  armed,
  onDrop,
  onStart,
}: Dropping & { date: string; shown: boolean; onStart: () => void }) {
  const { draft, units } = useWorkspace("draft", "units");
  const night = useNightOf(draft, date);
  const { box, width } = useWidth(900);
  const [waterline, setWaterline] = useState<number | null>(null);
  const data = useMemo(
    () => (night ? braidOf(draft, night.plan.runs, night.moments, date) : null),
    [night, draft, date],
  );
  useBenchKeys(shown, onStart, () => {});
  return (
    <div ref={box} className="min-w-0 overflow-x-auto">
      {!night && <p role="status">Working out the night…</p>}
      {night && !data && <p>Nothing runs on this date; choose another.</p>}
      {data && (
        <Braid
          site={draft}
          data={data}
          units={units}
          width={width}
          pxPerMinute={Math.max(0.8, Math.min(9, USUAL_PX / ((data.to - data.from) / 60)))}
          noEarlierThan={null}
          selected={null}
          onSelect={(on) => armed && onDrop(armed, on)}
          waterline={waterline ?? data.from}
          onWaterline={setWaterline}
        />
      )}
    </div>
  );
}

/** A night that was run, played, with its events. */
function RunNight({
  run,
  shown,
  armed,
  onDrop,
  current,
  onStart,
}: Dropping & { run: BenchRun; shown: boolean; current: boolean; onStart: () => void }) {
  const { units } = useWorkspace("units");
  const { result, file, asked } = run;
  const [selected, setSelected] = useState<BraidRun | null>(null);
  const [waterline, setWaterline] = useState<number | null>(null);
  const [onlyMatters, setOnlyMatters] = useState(true);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(60);
  const { box, width } = useWidth(900);
  const data = useMemo(() => braidOf(file, result.runs, [], asked.date), [file, result, asked.date]);
  const events = useMemo(() => eventsOf(result, onlyMatters), [result, onlyMatters]);
  const stones = useMemo(() => stonesOf(run), [run]);
  const usual = result.alarms[0] ? seconds(result.alarms[0].at) : (data?.from ?? 0);
  const at = data ? Math.max(data.from, Math.min(data.to, waterline ?? usual)) : 0;
  const stepEvent = useCallback(
    (step: 1 | -1): void => {
      setPlaying(false);
      const to = eventBeside(events, at, step);
      if (to !== null) setWaterline(to);
    },
    [events, at],
  );
  useBenchKeys(shown, () => (current ? setPlaying((p) => !p) : onStart()), stepEvent);
  const onSelect = useCallback(
    (on: BraidRun): void => {
      if (armed) onDrop(armed, on);
      else setSelected(on);
    },
    [armed, onDrop],
  );
  const chosen = selected && result.runs.some((r) => runKey(r) === runKey(selected)) ? selected : null;
  if (!data) return <p>Nothing ran on this date.</p>;
  return (
    <>
      {!current && (
        <p className="text-warning">This run is of another night, other faults, or the site before its last change.</p>
      )}
      <BenchResult run={run} />
      <Playback
        from={data.from}
        to={data.to}
        at={at}
        playing={playing}
        speed={speed}
        onAt={setWaterline}
        onPlaying={setPlaying}
        onSpeed={setSpeed}
        onEvent={stepEvent}
        clock={(x) => localIso(file.site.timeZone, x).slice(11, 19)}
      />
      <ReadingsChart
        rows={result.trace.rows.filter((r) => r.at >= data.from - 600 && r.at <= data.to + 900)}
        timeZone={file.site.timeZone}
        units={units}
        at={at}
      />
      <WithInspector
        label="What happened"
        className="mt-3"
        inspector={
          <>
            {chosen && (
              <InspectorHead
                over="Selected"
                title={subjectName(file, chosen.stationId)}
                under={`${chosen.start.slice(11, 19)} to ${chosen.end.slice(11, 19)}: ${whyThen(file, chosen)}`}
              />
            )}
            <Unwatered run={run} />
            <EventList
              site={file}
              events={events}
              at={at}
              onlyMatters={onlyMatters}
              onOnlyMatters={setOnlyMatters}
              onAt={setWaterline}
            />
          </>
        }
      >
        <div ref={box} className="min-w-0 overflow-x-auto">
          <Braid
            site={file}
            data={data}
            units={units}
            width={width}
            pxPerMinute={Math.max(0.8, Math.min(9, USUAL_PX / ((data.to - data.from) / 60)))}
            noEarlierThan={null}
            selected={chosen ? runKey(chosen) : null}
            onSelect={onSelect}
            waterline={at}
            onWaterline={setWaterline}
            stones={stones}
          />
        </div>
      </WithInspector>
      {asked.faults.length > 0 && <WhatElsePanel key={JSON.stringify(asked)} site={file} asked={asked} />}
    </>
  );
}

function Unwatered({ run: { result, file } }: { run: BenchRun }) {
  const short = result.unwatered.filter((u) => u.minutes >= 0.5);
  if (short.length === 0) return null;
  return (
    <p className="mb-2">
      Not watered:{" "}
      {short
        .slice(0, 8)
        .map((u) => `${subjectName(file, u.stationId)} ${showNumber(u.minutes, 1)} min`)
        .join("; ")}
      {short.length > 8 ? ` and ${short.length - 8} more` : ""}.
    </p>
  );
}
