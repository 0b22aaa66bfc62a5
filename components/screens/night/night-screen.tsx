"use client";
import { DateField } from "@/components/kit/date-field";
import { Button } from "@/components/kit/button";

import { Table } from "@/components/kit/table";
import { useEffect, useMemo, useState } from "react";
import { isTyping } from "@/components/kit/typing";
import { usePressures } from "@/components/draft/use-pressures";
import { WaterworksPicture } from "@/components/pictures/drawing/drawing";
import { fileStem, saveText } from "@/components/kit/save-file";
import { useWidth } from "@/components/kit/use-width";
import { useWorkspace } from "@/components/draft/workspace";
import { weatherPercent } from "@/core/calendar/run-time";
import { addDays, localClock } from "@/core/dates/wall-time";
import { duePrograms, siteHold } from "@/core/dispatch/queue";
import type { FlowMoment } from "@/core/dispatch/plan";
import { runsCsv } from "@/core/exports/runs-csv";
import { showNumber, showQuantity } from "@/core/units/units";
import type { NightAnswer } from "@/workers/messages";
import { BetterPanel } from "./better-panel";
import { Braid } from "../../pictures/braid/braid";
import { type BraidRun, braidOf, noEarlierThan, runKey, seconds, whyThen } from "../../pictures/braid/braid-data";
import { MonthView } from "./month-view";
import { WhatIf } from "./what-if";

/** The night as the controller will really do it, any date. */
export function NightScreen() {
  const { draft, night, date, setDate, units } = useWorkspace();
  const [selected, setSelected] = useState<BraidRun | null>(null);
  const percent = weatherPercent(draft, date);
  const [asTable, setAsTable] = useState(false);
  const [zoom, setZoom] = useState<number | null>(null);
  const [waterline, setWaterline] = useState<number | null>(null);
  const [panel, setPanel] = useState<"better" | "whatIf" | null>(null);
  const [weeks, setWeeks] = useState(false);
  const { box, width } = useWidth(900);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === "t" && !isTyping(e) && !e.ctrlKey) setAsTable((v) => !v);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const data = useMemo(
    () => (night ? braidOf(draft, night.plan.runs, night.moments, date) : null),
    [night, draft, date],
  );
  useEffect(() => setSelected(null), [date]);
  const minutes = data ? (data.to - data.from) / 60 : 1;
  const pxPerMinute = zoom ?? Math.max(0.8, Math.min(9, 560 / minutes));
  const at = data ? Math.max(data.from, Math.min(data.to, waterline ?? data.from + (data.to - data.from) / 3)) : 0;
  const plan = night?.plan;
  const hold = siteHold(draft, date);
  const nextDue = useMemo(
    () =>
      data
        ? null
        : Array.from({ length: 60 }, (_, i) => addDays(date, i + 1)).find(
            (d) =>
              !siteHold(draft, d) &&
              duePrograms(draft, d).some(
                ({ program }) => program.starts.length > 0 && program.runs.some((r) => r.minutes > 0),
              ),
          ),
    [data, date, draft],
  );
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-xl mr-2">Night</h2>
        <Button aria-label="Night before" onClick={() => setDate(addDays(date, -1))}>
          ←
        </Button>
        <DateField
          label="Night of"
          hideLabel
          required
          value={date}
          className="w-44"
          onCommit={(v) => v && setDate(v)}
        />
        <Button aria-label="Night after" onClick={() => setDate(addDays(date, 1))}>
          →
        </Button>
        <Button aria-pressed={asTable} onClick={() => setAsTable(!asTable)}>
          {asTable ? "Picture" : "Table"}
        </Button>
        {!asTable && (
          <>
            <Button aria-label="Longer" onClick={() => setZoom(Math.min(8, pxPerMinute * 1.4))}>
              Longer
            </Button>
            <Button aria-label="Shorter" onClick={() => setZoom(Math.max(0.3, pxPerMinute / 1.4))}>
              Shorter
            </Button>
          </>
        )}
        <Button aria-pressed={weeks} onClick={() => setWeeks(!weeks)}>
          {weeks ? "One night" : "Six weeks"}
        </Button>
        <Button aria-expanded={panel === "better"} onClick={() => setPanel(panel === "better" ? null : "better")}>
          Better night
        </Button>
        <Button aria-expanded={panel === "whatIf"} onClick={() => setPanel(panel === "whatIf" ? null : "whatIf")}>
          What if
        </Button>
        {data && night && <SaveNight data={data} night={night} />}
        {night && plan?.finish && (
          <p className="grow">
            {plan.runs.length} runs, {showQuantity(night.summary.litres, "volume", units)}; ends{" "}
            <strong>{plan.finish.slice(11, 16)}</strong>, {showNumber(plan.makespanS / 60)} min long.
            {plan.lateStartBoundS > 0 && (
              <>
                {" "}
                No order could take less than {showNumber(plan.lateStartBoundS / 60)} min
                {plan.lateStartBoundS > plan.lowerBoundS + 1 ? ", for what starts later" : ""}:{" "}
                <strong>{(plan.makespanS / plan.lateStartBoundS).toFixed(2)} ×</strong> the bound.
              </>
            )}
            {percent !== undefined && (
              <strong className="text-warning"> ▲ The weather makes it {showNumber(percent)} %.</strong>
            )}
          </p>
        )}
      </div>
      {panel === "better" && <BetterPanel onClose={() => setPanel(null)} />}
      {panel === "whatIf" && <WhatIf />}
      {plan && plan.warnings.length > 0 && (
        <ul className="mb-2 text-warning">
          {plan.warnings.slice(0, 4).map((w) => (
            <li key={w.code + (w.subjectId ?? "") + (w.at ?? "")}>▲ {w.message}</li>
          ))}
          {plan.warnings.length > 4 && <li>and {plan.warnings.length - 4} more, on Findings</li>}
        </ul>
      )}
      {plan && plan.shortfalls.length > 0 && (
        <p className="mb-2 text-error font-semibold">
          ✕ Left unwatered:{" "}
          {plan.shortfalls
            .slice(0, 6)
            .map(
              (s) =>
                `station ${draft.stations.find((x) => x.id === s.stationId)?.number} by ${showNumber(s.minutes, 1)} min`,
            )
            .join(", ")}
          {plan.shortfalls.length > 6 ? ` and ${plan.shortfalls.length - 6} more` : ""}.
        </p>
      )}
      {weeks && (
        <MonthView
          onPick={(d) => {
            setDate(d);
            setWeeks(false);
          }}
        />
      )}
      <div className={weeks ? "hidden" : "grid xl:grid-cols-[minmax(0,1fr)_23rem] gap-6"}>
        <div ref={box} className="min-w-0 overflow-x-auto" tabIndex={-1}>
          {!night && <p role="status">Working out the night…</p>}
          {night && !data && (
            <p className="max-w-prose my-6">
              {hold === "indefinite"
                ? "The site is off with no end set. Nothing waters until someone ends the hold on Programs."
                : hold === "until"
                  ? `The site is held until ${draft.site.holdUntil}.`
                  : draft.programs.length === 0
                    ? "No program yet: write one on Programs, and its night appears here."
                    : "Nothing runs on this date."}{" "}
              {nextDue && (
                <Button rank="quiet" onClick={() => setDate(nextDue)}>
                  Show the next night that waters, {nextDue}
                </Button>
              )}
            </p>
          )}
          {data && night && !asTable && (
            <Braid
              site={draft}
              data={data}
              units={units}
              width={width}
              pxPerMinute={pxPerMinute}
              noEarlierThan={noEarlierThan(night.plan)}
              selected={selected ? runKey(selected) : null}
              onSelect={setSelected}
              waterline={at}
              onWaterline={setWaterline}
            />
          )}
          {data && night && asTable && <RunTable runs={night.plan.runs} onSelect={setSelected} />}
        </div>
        {data && night && (
          <aside aria-label="At the waterline" className="min-w-0">
            {selected && <Selected run={selected} />}
            <Moment at={at} runs={night.plan.runs} moments={night.moments} />
          </aside>
        )}
      </div>
    </>
  );
}

/** The night as files: its runs, its picture, and six weeks of it for a calendar. */
function SaveNight({ data, night }: { data: NonNullable<ReturnType<typeof braidOf>>; night: NightAnswer }) {
  const { draft, units, date } = useWorkspace();
  const name = `${fileStem(draft)}-${date}`;
  const picture = async (): Promise<void> => {
    const { standaloneSvg } = await import("@/components/pictures/drawing/export-picture");
    saveText(
      await standaloneSvg(
        <Braid
          site={draft}
          data={data}
          units={units}
          width={1200}
          pxPerMinute={Math.max(1, Math.min(4, 760 / ((data.to - data.from) / 60)))}
          noEarlierThan={noEarlierThan(night.plan)}
          selected={null}
          onSelect={() => {}}
          waterline={data.from}
          onWaterline={() => {}}
        />,
      ),
      `${name}-braid.svg`,
      "image/svg+xml",
    );
  };
  const calendar = async (): Promise<void> => {
    const { wateringCalendar } = await import("@/core/exports/watering-calendar");
    saveText(
      wateringCalendar(draft, date, 42, new Date().toISOString()),
      `${fileStem(draft)}-watering.ics`,
      "text/calendar",
    );
  };
  return (
    <span role="group" aria-label="Save the night" className="no-print inline-flex gap-1">
      <Button onClick={picture}>SVG</Button>
      <Button onClick={() => saveText(runsCsv(draft, night.plan.runs), `${name}-runs.csv`, "text/csv")}>CSV</Button>
      <Button onClick={calendar}>iCalendar</Button>
    </span>
  );
}

function Selected({ run }: { run: BraidRun }) {
  const { draft, units } = useWorkspace();
  const s = draft.stations.find((x) => x.id === run.stationId);
  const p = draft.programs.find((x) => x.id === run.programId);
  const minutes = (seconds(run.end) - seconds(run.start)) / 60;
  return (
    <section aria-label="Selected run" className="border-l-4 border-error pl-3 mb-4">
      <h3 className="text-lg">
        {s?.number} {s?.name}
      </h3>
      <p>
        {p?.name}, cycle {run.cycle}; {run.start.slice(11, 19)} to {run.end.slice(11, 19)}, {showNumber(minutes, 1)}{" "}
        min.
      </p>
      <p>
        {run.flowLpm === null
          ? "No flow figure."
          : `${showQuantity(run.flowLpm, "flow", units, 1)}, ${showQuantity(run.flowLpm * minutes, "volume", units)}.`}
      </p>
      <p className="font-semibold">
        {whyThen(draft, run)}
        {run.ended && run.ended !== "complete" ? `; closed before its time (${run.ended})` : ""}
      </p>
    </section>
  );
}

function Moment({ at, runs, moments }: { at: number; runs: BraidRun[]; moments: FlowMoment[] }) {
  const { draft, units, date } = useWorkspace();
  const pressures = usePressures(draft, date);
  const open = runs.filter((r) => seconds(r.start) <= at && at < seconds(r.end));
  const moment = [...moments].reverse().find((m) => m.at <= at);
  const flows = useMemo(() => {
    const found = new Map<string, number>();
    if (moment) {
      draft.mainlines.forEach((m, i) => {
        found.set(m.id, moment.mainline[i] ?? 0);
      });
      draft.pocs.forEach((p, i) => {
        found.set(p.id, moment.poc[i] ?? 0);
      });
    }
    return found;
  }, [moment, draft]);
  const set = useMemo(() => {
    if (pressures.state !== "done") return null;
    const now = new Set(runs.filter((r) => seconds(r.start) <= at && at < seconds(r.end)).map((r) => r.stationId));
    return (
      pressures.study.night.find(
        (n) => n.stations.length === now.size && n.stations.every((s) => now.has(s.stationId)),
      ) ?? null
    );
  }, [pressures, runs, at]);
  return (
    <section aria-label="Open at that moment">
      <h3 className="text-lg">
        At {localClock(draft.site.timeZone, at)}: {open.length} open
      </h3>
      <div className="overflow-x-auto my-1">
        <WaterworksPicture site={draft} units={units} flows={flows} />
      </div>
      <Table>
        <tbody>
          {draft.pocs.map((p) => (
            <tr key={p.id}>
              <td className="font-semibold">{p.name}</td>
              <td className="text-right font-semibold">{showQuantity(flows.get(p.id) ?? 0, "flow", units, 1)}</td>
              <td />
            </tr>
          ))}
          {open.map((r) => {
            const s = draft.stations.find((x) => x.id === r.stationId);
            const p = set?.stations.find((x) => x.stationId === r.stationId);
            const short = (p?.marginKpa ?? 0) < 0;
            return (
              <tr key={runKey(r)}>
                <td>
                  {s?.number} {s?.name}
                </td>
                <td className="text-right">{r.flowLpm === null ? "–" : showQuantity(r.flowLpm, "flow", units, 1)}</td>
                <td
                  className={`text-right ${short ? "text-error" : ""}`}
                  title={short ? `requires ${showQuantity(p?.requiredKpa ?? 0, "pressure", units)}` : undefined}
                >
                  {p ? `${short ? "▼ " : ""}${showQuantity(p.kPa, "pressure", units)}` : ""}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      <p className="text-sm text-faint mt-1">
        Flows are the stations' expected flows divided over the feeds by source priority.{" "}
        {set
          ? "Pressures at the valves are the network solver's for this set."
          : pressures.state === "working"
            ? "Solving the network…"
            : open.length > 0
              ? "No pressure can be told: no source above states one."
              : ""}
      </p>
    </section>
  );
}

export function RunTable({ runs, onSelect }: { runs: BraidRun[]; onSelect: (run: BraidRun) => void }) {
  const { draft, units } = useWorkspace();
  return (
    <Table aria-label="Runs of the night">
      <thead>
        <tr>
          <th>Opens</th>
          <th>Closes</th>
          <th className="text-right">Minutes</th>
          <th>Station</th>
          <th>Program</th>
          <th className="text-right">Cycle</th>
          <th className="text-right">Flow</th>
          <th>Why then</th>
        </tr>
      </thead>
      <tbody>
        {runs.map((r) => {
          const s = draft.stations.find((x) => x.id === r.stationId);
          return (
            <tr key={runKey(r)}>
              <td>{r.start.slice(11, 19)}</td>
              <td>{r.end.slice(11, 19)}</td>
              <td className="text-right">{showNumber((seconds(r.end) - seconds(r.start)) / 60, 1)}</td>
              <td>
                <Button rank="bare" className="underline underline-offset-2 cursor-pointer" onClick={() => onSelect(r)}>
                  {s?.number} {s?.name}
                </Button>
              </td>
              <td>{draft.programs.find((p) => p.id === r.programId)?.name}</td>
              <td className="text-right">{r.cycle}</td>
              <td className="text-right">{r.flowLpm === null ? "–" : showQuantity(r.flowLpm, "flow", units, 1)}</td>
              <td>{whyThen(draft, r)}</td>
            </tr>
          );
        })}
      </tbody>
    </Table>
  );
}
