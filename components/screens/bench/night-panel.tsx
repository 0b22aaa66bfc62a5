"use client";
import type { LogFacts } from "@/contracts/log";
import { StoneIcon } from "@/components/kit/icons";
import { Button } from "@/components/kit/button";
import { Progress } from "@/components/kit/progress";
import { Table } from "@/components/kit/table";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { NumberField, TickField } from "@/components/kit/fields";
import { isTyping } from "@/components/kit/typing";
import { Braid, type Stone } from "@/components/pictures/braid/braid";
import { type BraidRun, braidOf, runKey, seconds, whyThen } from "@/components/pictures/braid/braid-data";
import { request } from "@/components/data/request";
import { computeBench } from "@/components/draft/compute";
import { useWidth } from "@/components/kit/use-width";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { subjectName } from "@/core/judge/alarm-words";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import type { Simulation } from "@/core/bench/simulate";
import { localIso } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { EVENT_WORDS } from "../../words/event-words";
import { FaultList } from "./fault-list";
import { Playback } from "./playback";
import { ReadingsChart } from "../../charts/readings-chart";
import { WhatElsePanel } from "./what-else";

type Run = {
  request: { date: string; faults: FaultRequest[]; seed: number; exact: boolean };
  result: Simulation;
  file: SiteFile;
};

/** Rehearse a night with faults: what would be shut off, when, why, and what it costs. */
export function NightPanel({
  date: night,
  shown,
}: {
  date: string /** On the screen now: keys are its. */;
  shown: boolean;
}) {
  const { draft, siteId, units, canEdit, adopt } = useWorkspace("draft", "siteId", "units", "canEdit", "adopt");
  const changes = useChanges();
  const { setLog } = useSiteLog();
  const [faults, setFaults] = useState<FaultRequest[]>([]);
  const [seed, setSeed] = useState(1);
  const [exact, setExact] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [run, setRun] = useState<Run | null>(null);
  const [taken, setTaken] = useState<string | null>(null);
  const [selected, setSelected] = useState<BraidRun | null>(null);
  const [waterline, setWaterline] = useState<number | null>(null);
  const [onlyMatters, setOnlyMatters] = useState(true);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(60);
  const cancel = useRef<(() => void) | null>(null);
  const { box, width } = useWidth(900);
  useEffect(() => () => cancel.current?.(), []);

  const start = useCallback(async (): Promise<void> => {
    if (cancel.current) return;
    setProblem(null);
    setTaken(null);
    setSelected(null);
    setPlaying(false);
    setShare(0);
    const asked = { date: night, faults, seed, exact };
    const job = computeBench(draft, asked, setShare);
    cancel.current = job.cancel;
    try {
      setRun({ request: asked, result: await job.promise, file: draft });
      setWaterline(null);
    } catch (error) {
      if (!(error instanceof Error && error.message === "cancelled"))
        setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      cancel.current = null;
      setShare(null);
    }
  }, [draft, night, faults, seed, exact]);

  const events = useMemo(
    () =>
      run
        ? run.result.events.filter(
            (e) =>
              !onlyMatters ||
              !["open", "close", "masterValveOpen", "masterValveShut", "pumpOn", "pumpOff"].includes(e.type),
          )
        : [],
    [run, onlyMatters],
  );
  const stepEvent = useCallback(
    (step: 1 | -1): void => {
      setPlaying(false);
      const times = events.map((x) => seconds(x.at));
      if (times.length === 0) return;
      setWaterline((line) => {
        const now = line ?? 0;
        return step > 0
          ? (times.find((t) => t > now) ?? times[times.length - 1] ?? null)
          : ([...times].reverse().find((t) => t < now) ?? times[0] ?? null);
      });
    },
    [events],
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey) return;
      if (!shown) return;
      if (
        e.key === " " &&
        (e.target === document.body || !(e.target as HTMLElement).closest("button,[role=button],[role=slider],summary"))
      ) {
        e.preventDefault();
        // A night that was run as it is asked for now is played; else it is run.
        if (
          run &&
          run.file === draft &&
          run.request.date === night &&
          run.request.faults === faults &&
          run.request.seed === seed &&
          run.request.exact === exact
        )
          setPlaying((p) => !p);
        else void start();
      }
      if (e.key === "]" || e.key === "[") stepEvent(e.key === "]" ? 1 : -1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [start, stepEvent, shown, run, draft, night, faults, seed, exact]);

  const data = useMemo(() => (run ? braidOf(run.file, run.result.runs, [], run.request.date) : null), [run]);
  const stones: Stone[] = useMemo(
    () =>
      run
        ? run.result.alarms.slice(0, 12).map((a) => ({
            at: seconds(a.at),
            words: `${a.kind === "stationHigh" ? "high" : a.kind === "stationLow" ? "low" : a.kind}: ${subjectName(run.file, a.subjectId)}`,
            mainlineId:
              run.file.stations.find((s) => s.id === a.subjectId)?.mainlineId ??
              (run.file.mainlines.some((m) => m.id === a.subjectId) ? a.subjectId : null),
          }))
        : [],
    [run],
  );
  const take = async (): Promise<void> => {
    if (!run) return;
    setProblem(null);
    try {
      const saved = await request<{ alarms: number; version: number }>(
        "POST",
        `/api/sites/${siteId}/bench`,
        run.request,
      );
      const fresh = await request<SiteFile>("GET", `/api/sites/${siteId}/file`);
      adopt(fresh, saved.version);
      setLog(await request<LogFacts>("GET", `/api/sites/${siteId}/log/facts`));
      setTaken(
        `In the log: ${saved.alarms} alarm${saved.alarms === 1 ? "" : "s"}${run.result.lockouts.length > 0 ? `; locked out ${run.result.lockouts.map((id) => subjectName(draft, id)).join(", ")}` : ""}.`,
      );
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  const at = data
    ? Math.max(
        data.from,
        Math.min(data.to, waterline ?? (run?.result.alarms[0] ? seconds(run.result.alarms[0].at) : data.from)),
      )
    : null;
  const short = run?.result.unwatered.filter((u) => u.minutes >= 0.5) ?? [];
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-1">
        <div className="w-20">
          <NumberField label="Seed" value={seed} min={0} max={1e9} whole required onCommit={(v) => setSeed(v ?? 1)} />
        </div>
        <TickField label="exact (no noise, full mains)" checked={exact} onCommit={setExact} />
        {share === null ? (
          <Button rank="main" onClick={start}>
            Run the night
          </Button>
        ) : (
          <>
            <Progress className="w-40" value={share} max={1} aria-label="Bench" />
            <Button onClick={() => cancel.current?.()}>Cancel</Button>
          </>
        )}
        {run && canEdit && (
          <Button
            onClick={take}
            disabled={changes.length > 0 || taken !== null}
            title={changes.length > 0 ? "Save your changes first" : undefined}
          >
            Take this night into the log
          </Button>
        )}
      </div>
      <FaultList faults={faults} onChange={setFaults} calm="No fault: an ordinary night." />
      {problem && (
        <p role="alert" className="text-error font-semibold my-2">
          {problem}
        </p>
      )}
      {taken && (
        <p role="status" className="font-semibold my-2">
          {taken}
        </p>
      )}
      {!run && (
        <p className="max-w-prose my-4">
          A simulated site, second by second: supply that varies, valves that take seconds, mains that fill, sensors
          with noise, and a controller that obeys these settings exactly. Drop a fault and run the night; it opens no
          real valves.
        </p>
      )}
      {run && (
        <>
          <dl className="flex flex-wrap gap-x-8 border-y-2 border-base-content py-1 my-2 text-lg" aria-label="Result">
            <div className="flex gap-2">
              <dt className="text-faint">alarms</dt>
              <dd className={run.result.alarms.length > 0 ? "text-error font-semibold" : "font-semibold"}>
                {run.result.alarms.length}
              </dd>
            </div>
            <div className="flex gap-2">
              <dt className="text-faint">locked out</dt>
              <dd className="font-semibold">
                {run.result.lockouts.length === 0
                  ? "none"
                  : run.result.lockouts.map((id) => subjectName(run.file, id)).join(", ")}
              </dd>
            </div>
            <div className="flex gap-2">
              <dt className="text-faint">delivered</dt>
              <dd className="font-semibold">{showQuantity(run.result.totals.deliveredL, "volume", units)}</dd>
            </div>
            <div className="flex gap-2">
              <dt className="text-faint">lost</dt>
              <dd className={`font-semibold ${run.result.totals.lostL > 1 ? "text-error" : ""}`}>
                {showQuantity(run.result.totals.lostL, "volume", units)}
              </dd>
            </div>
            <div className="flex gap-2">
              <dt className="text-faint">not watered</dt>
              <dd className="font-semibold">
                {short.length === 0
                  ? "nothing"
                  : `${showNumber(short.reduce((a, u) => a + u.minutes, 0))} min, ${short.length} station${short.length === 1 ? "" : "s"}`}
              </dd>
            </div>
          </dl>
          {run.result.alarms.length > 0 && (
            <ul className="my-2" aria-label="Alarms">
              {run.result.alarms.map((a) => (
                <li key={a.at + a.kind + a.subjectId} className="py-0.5">
                  <span className="text-error font-semibold">
                    <StoneIcon className="inline size-[1em] align-[-0.12em]" /> {a.at.slice(11, 19)}
                  </span>{" "}
                  {a.message}
                </li>
              ))}
            </ul>
          )}
          {data && at !== null && (
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
              clock={(x) => localIso(run.file.site.timeZone, x).slice(11, 19)}
            />
          )}
          <ReadingsChart rows={run.result.trace.rows} timeZone={run.file.site.timeZone} units={units} at={at} />
        </>
      )}
      <div className="grid xl:grid-cols-[minmax(0,1fr)_26rem] gap-6 mt-3">
        <div ref={box} className="min-w-0 overflow-x-auto">
          {run && !data && <p>Nothing ran on this date.</p>}
          {run && data && at !== null && (
            <Braid
              site={run.file}
              data={data}
              units={units}
              width={width}
              pxPerMinute={Math.max(0.8, Math.min(9, 560 / ((data.to - data.from) / 60)))}
              noEarlierThan={null}
              selected={selected ? runKey(selected) : null}
              onSelect={setSelected}
              waterline={at}
              onWaterline={setWaterline}
              stones={stones}
            />
          )}
        </div>
        {run && (
          <section aria-label="Events" className="min-w-0">
            {selected && (
              <p className="border-l-4 border-error pl-3 mb-2">
                <strong>{subjectName(run.file, selected.stationId)}</strong>, {selected.start.slice(11, 19)} to{" "}
                {selected.end.slice(11, 19)}: {whyThen(run.file, selected)}.
              </p>
            )}
            <div className="flex items-center gap-4">
              <h3 className="text-lg">Events</h3>
              <TickField label="only what matters" checked={onlyMatters} onCommit={setOnlyMatters} />
            </div>
            {short.length > 0 && (
              <p className="text-sm">
                Not watered:{" "}
                {short
                  .slice(0, 8)
                  .map((u) => `${subjectName(run.file, u.stationId)} ${showNumber(u.minutes, 1)} min`)
                  .join("; ")}
                {short.length > 8 ? ` and ${short.length - 8} more` : ""}.
              </p>
            )}
            <div className="max-h-[36rem] overflow-y-auto">
              <Table>
                <tbody>
                  {events.length === 0 && (
                    <tr>
                      <td>Nothing out of the ordinary happened.</td>
                    </tr>
                  )}
                  {events.slice(0, 600).map((e, i) => (
                    <tr
                      key={`${e.at}${e.type}${e.subjectId}${i}`}
                      onClick={() => setWaterline(seconds(e.at))}
                      className="cursor-pointer"
                      aria-selected={at !== null && seconds(e.at) === at}
                    >
                      <td className="whitespace-nowrap">{e.at.slice(11, 19)}</td>
                      <td
                        className={
                          e.type === "alarm" || e.type === "lockedOut" || e.type === "stopped"
                            ? "text-error font-semibold"
                            : ""
                        }
                      >
                        {EVENT_WORDS[e.type] ?? e.type}
                      </td>
                      <td>
                        {subjectName(run.file, e.subjectId)}
                        {e.reason && <span className="text-faint"> {e.reason}</span>}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </Table>
            </div>
          </section>
        )}
      </div>
      {run && run.request.faults.length > 0 && (
        <WhatElsePanel key={JSON.stringify(run.request)} site={run.file} asked={run.request} />
      )}
    </>
  );
}
