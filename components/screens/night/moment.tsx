"use client";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { usePressures } from "@/components/draft/use-pressures";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { InspectorHead, InspectorPart } from "@/components/kit/inspector";
import { Table } from "@/components/kit/table";
import { type BraidRun, runKey, seconds, whyThen } from "@/components/pictures/braid/braid-data";
import { FlowSketch } from "@/components/pictures/drawing/flow-sketch";
import { localClock } from "@/core/dates/wall-time";
import type { FlowMoment } from "@/core/dispatch/plan";
import { showNumber } from "@/core/units/units";

/** The run that was chosen in the braid, and why it began when it did. */
export function Selected({ run }: { run: BraidRun }) {
  const { draft, date } = useWorkspace("draft", "date");
  const { quantity, clock } = useConventions();
  const s = draft.stations.find((x) => x.id === run.stationId);
  const p = draft.programs.find((x) => x.id === run.programId);
  const minutes = (seconds(run.end) - seconds(run.start)) / 60;
  return (
    <section aria-label="Selected run" className="mb-4">
      <InspectorHead
        over={`Selected · cycle ${run.cycle}`}
        title={`${s?.number} ${s?.name}`}
        under={`${p?.name} · ${clock(run.start, date)} – ${clock(run.end, date)}, ${showNumber(minutes, 1)} min`}
      />
      <p>
        {run.flowLpm === null
          ? "No flow figure."
          : `${quantity(run.flowLpm, "flow")}, ${quantity(run.flowLpm * minutes, "volume")}.`}
      </p>
      <p className="mt-1 border-l-4 border-warning pl-2 font-semibold">
        {whyThen(draft, run)}
        {run.ended && run.ended !== "complete" ? `; closed before its time (${run.ended})` : ""}
      </p>
    </section>
  );
}

/** What is open at the waterline, with flows and pressures. */
export function Moment({ at, runs, moments }: { at: number; runs: BraidRun[]; moments: FlowMoment[] }) {
  const { draft, date } = useWorkspace("draft", "date");
  const { figure, quantity, unit } = useConventions();
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
    <InspectorPart title={`At ${localClock(draft.site.timeZone, at)}: ${open.length} open`}>
      <div className="my-2">
        <FlowSketch site={draft} flows={flows} />
      </div>
      <Table aria-label="Open at that moment">
        <thead>
          <tr>
            <th>Where</th>
            <th className="text-right">{unit("flow")}</th>
            <th className="text-right">{unit("pressure")}</th>
          </tr>
        </thead>
        <tbody>
          {draft.pocs.map((p) => (
            <tr key={p.id}>
              <td className="font-semibold">{p.name}</td>
              <td className="text-right font-semibold">{figure(flows.get(p.id) ?? 0, "flow", 1)}</td>
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
                <td className="text-right">{r.flowLpm === null ? "–" : figure(r.flowLpm, "flow", 1)}</td>
                <td
                  className={classes("text-right", short && "font-semibold text-error")}
                  title={short ? `requires ${quantity(p?.requiredKpa ?? 0, "pressure")}` : undefined}
                >
                  {p ? figure(p.kPa, "pressure") : ""}
                  {short ? " short" : ""}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      <p className="text-sm text-faint mt-1">
        Flows are the stations' expected flows divided over the feeds by source priority.{" "}
        {set && "Pressures at the valves are the network solver's for this set."}
        {!set && pressures.state === "working" && "Solving the network…"}
        {!set &&
          pressures.state !== "working" &&
          open.length > 0 &&
          "No pressure can be told: no source above states one."}
      </p>
    </InspectorPart>
  );
}
