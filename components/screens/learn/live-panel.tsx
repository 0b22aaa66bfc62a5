"use client";
import { stationName } from "@/core/site-file/station-name";
import { type Conventions, useConventions } from "@/components/kit/conventions";
import { Progress } from "@/components/kit/progress";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { NumberField } from "@/components/kit/fields";
import { useWorkspace } from "@/components/draft/site-draft";
import { localClock } from "@/core/dates/wall-time";
import { timeLimitS } from "@/core/learn/system-run";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";
import { Trace } from "../../charts/learning-trace";
import type { LearningState, RunNow } from "../../data/use-learning";
import { duration, WAITS } from "./words";

/** What a run does now, and what its baseline test saw. */
export function LivePanel({ learning }: { learning: LearningState }) {
  const { draft, units, canEdit } = useWorkspace("draft", "units", "canEdit");
  const conventions = useConventions();
  const { dateAt } = conventions;
  const { view, live, running } = learning;
  const run = view.run;
  if (!run) return null;
  const station = draft.stations.find((s) => s.id === live.stationId);
  const wanted = run.request.stationIds?.length ?? draft.stations.length;
  const done = view.results.filter((r) => r.runId === run.id && r.verdict !== "stopped").length;
  const waitsForHour = run.state === "queued" && new Date(run.startAt).getTime() > Date.now();
  return (
    <section aria-label="Learning now" className="mb-4 border-y-2 border-base-content py-2">
      {running && (
        <>
          <div className="flex flex-wrap items-center gap-x-5 gap-y-1 mb-1">
            <p role="status" className="text-lg font-semibold">
              {doing(draft, run, live, conventions)}
            </p>
            <p>
              {done} of {wanted} done
            </p>
            <Progress className="w-40" value={done} max={Math.max(1, wanted)} aria-label="Stations done" />
            {canEdit && <Button onClick={() => void learning.stop(run.id)}>Stop, keep what it has</Button>}
          </div>
          {!waitsForHour && (
            <div className="grid lg:grid-cols-[minmax(0,1fr)_20rem] gap-x-6 gap-y-2">
              <Trace
                points={live.points}
                expectedLpm={station ? (expectedFlow(station)?.lpm ?? null) : null}
                units={units}
              />
              <div>
                <p className="text-xl font-semibold">
                  {live.points.length > 0 ? showQuantity(live.points.at(-1)?.lpm ?? 0, "flow", units, 1) : "–"}
                </p>
                <p>
                  {howLong(station, live)}. Started by {run.askedByName}.
                </p>
                <Rest run={run} learning={learning} />
              </div>
            </div>
          )}
        </>
      )}
      {!running && run.state === "failed" && (
        <p role="alert" className="text-error font-semibold">
          {run.how === "controller"
            ? "The controllers did not learn; Controllers, History says why. What there was is kept."
            : "Learning failed on the server; start it again. What it had is kept."}
        </p>
      )}
      {!running && run.state === "stopped" && (
        <p className="font-semibold">
          Stopped; {done} of {wanted} learned. What was learned is kept.
        </p>
      )}
      {!running && run.state === "done" && (
        <p>
          Last run{run.how === "controller" ? " at the controllers" : " on the bench"}: {done} of {wanted} station
          {wanted === 1 ? "" : "s"} in {duration(run.seconds ?? 0)} of site time,{" "}
          {showQuantity(run.litres ?? 0, "volume", units)}; {run.askedByName}, {run.endedAt ? dateAt(run.endedAt) : ""}.
          {run.leftIds.length > 0 ? ` The window left ${run.leftIds.length}.` : ""}
        </p>
      )}
      {(!running || waitsForHour) && <Rest run={run} learning={learning} />}
    </section>
  );
}

/** What happens now, in words. */
function doing(site: SiteFile, run: RunNow, live: LearningState["live"], { momentAt }: Conventions): string {
  const zone = site.site.timeZone;
  const name = (id: string): string => stationName(site, id);
  const startAt = Math.floor(Date.parse(run.startAt) / 1000);
  if (run.state === "queued" && startAt > Date.now() / 1000)
    return `Waits for ${momentAt(run.startAt)}, the site's own clock`;
  if (live.waits)
    return `Waits for ${WAITS[live.waits.why as keyof typeof WAITS]} to end at ${localClock(zone, live.waits.until)}`;
  if (live.stationId)
    return `${name(live.stationId)} ${live.withIds.length > 0 ? `with ${live.withIds.map(name).join(", ")}` : "runs alone"}`;
  if (run.state !== "queued") return "Baseline: everything closed, pump off";
  return run.how === "controller" ? "Waits until nothing runs at the controllers" : "Waits for a worker";
}

/** How long the station has been open, and until when it has to be steady. */
function howLong(station: Station | undefined, { points }: LearningState["live"]): string {
  if (!station) return "with everything closed";
  const [first, last] = [points[0], points.at(-1)];
  const since = first && last ? last.at - first.at + 1 : 0;
  const judgedFor = points.filter((p) => !p.settling).length;
  const leftS = Math.max(0, timeLimitS(station, null) - judgedFor);
  const until = judgedFor > 0 ? `; called unsteady in ${duration(leftS)} at the latest` : ", in its hold-off";
  return `${since} s since it opened${until}`;
}

/** What was seen with everything closed, and a reading of the meter for what the sensor cannot see. */
function Rest({ run, learning }: { run: RunNow; learning: LearningState }) {
  const { units, canEdit, draft } = useWorkspace("units", "canEdit", "draft");
  const [open, setOpen] = useState(false);
  const [read, setRead] = useState<{
    beforeL?: number | undefined;
    afterL?: number | undefined;
    minutes?: number | undefined;
  }>({ minutes: 10 });
  if (run.baseline.length === 0) return null;
  const names = (ids: string[]): string => ids.map((id) => draft.pocs.find((p) => p.id === id)?.name ?? id).join(", ");
  const enough = read.beforeL !== undefined && read.afterL !== undefined && read.minutes !== undefined;
  return (
    <div className="mt-1">
      {run.baseline.map((b) => (
        <p
          key={b.pocIds.join()}
          role={b.flowing ? "alert" : undefined}
          className={b.flowing ? "text-error font-semibold" : ""}
        >
          Baseline at {names(b.pocIds)}:{" "}
          {b.flowing &&
            `${showQuantity(b.measuredLpm, "flow", units, 1)} flows with everything closed. Nothing behind it was learned; find it first.`}
          {!b.flowing &&
            (b.blind
              ? "blind, because with the pump off nothing stands under pressure. Read the meter."
              : `nothing over ${showQuantity(b.limitLpm, "flow", units, 1)}, the least its sensors see. Less than that hides.`)}
        </p>
      ))}
      {run.meter && (
        <p className={run.meter.leakLpm > 0 ? "text-error font-semibold" : ""}>
          Meter: {showQuantity(run.meter.afterL - run.meter.beforeL, "volume", units)} in {run.meter.minutes} min,{" "}
          {run.meter.leakLpm > 0
            ? `${showQuantity(run.meter.leakLpm, "flow", units, 2)} with everything closed. That is a leak.`
            : "no leak."}
        </p>
      )}
      {canEdit && !open && (
        <Button rank="quiet" onClick={() => setOpen(true)}>
          {run.meter ? "Read the meter again" : "Read the meter before and after, for a smaller leak"}
        </Button>
      )}
      {open && (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            if (enough)
              void learning.meter(run.id, read as { beforeL: number; afterL: number; minutes: number }).then((ok) => {
                if (ok) setOpen(false);
              });
            else learning.fail("Give both readings of the meter and the minutes between them.");
          }}
        >
          <div className="w-36">
            <NumberField
              label="Meter before"
              quantity="volume"
              system={units}
              value={read.beforeL}
              min={0}
              max={1e12}
              onCommit={(beforeL) => setRead((r) => ({ ...r, beforeL }))}
            />
          </div>
          <div className="w-36">
            <NumberField
              label="Meter after"
              quantity="volume"
              system={units}
              value={read.afterL}
              min={0}
              max={1e12}
              onCommit={(afterL) => setRead((r) => ({ ...r, afterL }))}
            />
          </div>
          <div className="w-28">
            <NumberField
              label="Between them"
              unit="min"
              value={read.minutes}
              min={0.1}
              max={1440}
              onCommit={(minutes) => setRead((r) => ({ ...r, minutes }))}
            />
          </div>
          <Button type="submit">Work it out</Button>
          <Button rank="quiet" onClick={() => setOpen(false)}>
            Close
          </Button>
        </form>
      )}
    </div>
  );
}
