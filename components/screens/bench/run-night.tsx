"use client";
import dynamic from "next/dynamic";
import { useCallback, useMemo, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { InspectorHead, WithInspector } from "@/components/kit/inspector";
import { useWidth } from "@/components/kit/use-width";
import { Braid } from "@/components/pictures/braid/braid";
import { type BraidRun, braidOf, runKey, seconds, whyThen } from "@/components/pictures/braid/braid-data";
import type { Stone } from "@/components/pictures/braid/stones";
import { localIso } from "@/core/dates/wall-time";
import { subjectName } from "@/core/judge/alarm-words";
import { showNumber } from "@/core/units/units";
import { usePxPerMinute } from "@/components/pictures/braid/use-px-per-minute";
import { BENCH_ROOM, type Dropping } from "./bench-braid";
import { BenchResult } from "./bench-result";
import { eventBeside, EventList, eventsOf } from "./event-list";
import { Playback } from "./playback";
import type { BenchRun } from "./use-bench";
import { useBenchKeys } from "./use-bench-keys";

const WhatElsePanel = dynamic(() => import("./what-else").then((m) => m.WhatElsePanel));
const ReadingsChart = dynamic(() => import("@/components/charts/readings-chart").then((m) => m.ReadingsChart));

const STONE_WORDS: Record<string, string> = { stationHigh: "high", stationLow: "low" };

function stonesOf({ result, file }: BenchRun): Stone[] {
  return result.alarms.slice(0, 12).map((a) => ({
    at: seconds(a.at),
    words: `${STONE_WORDS[a.kind] ?? a.kind}: ${subjectName(file, a.subjectId)}`,
    mainlineId:
      file.stations.find((s) => s.id === a.subjectId)?.mainlineId ??
      (file.mainlines.some((m) => m.id === a.subjectId) ? a.subjectId : null),
  }));
}

/** A night that was run, played, with its events. */
export function RunNight({
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
  const pxPerMinute = usePxPerMinute(data, BENCH_ROOM);
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
            pxPerMinute={pxPerMinute}
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
