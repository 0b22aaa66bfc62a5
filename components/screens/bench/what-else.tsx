"use client";
import { useConventions } from "@/components/kit/conventions";
import { Scroller } from "@/components/kit/scroller";
import { Button } from "@/components/kit/button";
import { Progress } from "@/components/kit/progress";
import { Table } from "@/components/kit/table";
import { computeWhatElse } from "@/components/draft/compute";
import { useJob } from "@/components/draft/use-job";
import { useWorkspace } from "@/components/draft/site-draft";
import { subjectName } from "@/core/judge/alarm-words";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { SCHOOLS } from "@/core/limits/schools";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import type { WhatElse } from "@/workers/compute.worker";

function isolatedWords(seconds: number | null): string {
  if (seconds === null) return "never";
  return seconds === 0 ? "did nothing" : `${showNumber(seconds / 60, 1)} min`;
}

/** What the faults did to the rest of the night, and what the starting points would have done on the same night. */
export function WhatElsePanel({
  site,
  asked,
}: {
  site: SiteFile;
  asked: { date: string; faults: FaultRequest[]; seed: number; exact: boolean };
}) {
  const { units } = useWorkspace("units");
  const { clock } = useConventions();
  const ended = (iso: string | null): string => (iso === null ? "does not run" : clock(iso, asked.date));
  const { value: found, share, problem, start, cancel } = useJob<WhatElse>();
  const name = (id: string): string => subjectName(site, id).replace(/^station /, "");
  return (
    <section aria-label="What else" className="border-t border-base-300 mt-4 pt-2">
      <p className="flex flex-wrap items-center gap-3">
        {share === null ? (
          <Button onClick={() => void start((onProgress) => computeWhatElse(site, asked, onProgress))}>
            {found ? "Work it out again" : "The rest of the night, and other policies on it"}
          </Button>
        ) : (
          <>
            <Progress className="w-40" value={share} max={1} aria-label="Other policies" />
            <Button onClick={cancel}>Cancel</Button>
          </>
        )}
        {!found && share === null && (
          <span className="text-faint">
            Plays the same night without its faults, and with them under each starting point.
          </span>
        )}
      </p>
      {problem && (
        <p role="alert" className="text-error font-semibold">
          {problem}
        </p>
      )}
      {found && (
        <div className="grid xl:grid-cols-2 gap-x-8 gap-y-4 mt-2">
          <Scroller className="max-h-96">
            <h3 className="text-lg">The rest of the night</h3>
            {found.aftermath.length === 0 ? (
              <p>Everything ran when it would have, and as long.</p>
            ) : (
              <Table aria-label="The rest of the night">
                <thead>
                  <tr>
                    <th>Station</th>
                    <th className="text-right">Would have ended</th>
                    <th className="text-right">Ended</th>
                    <th className="text-right">Less</th>
                  </tr>
                </thead>
                <tbody>
                  {found.aftermath.map((a) => (
                    <tr key={a.stationId}>
                      <td>{name(a.stationId)}</td>
                      <td className="text-right">{ended(a.calmEnd)}</td>
                      <td className="text-right">{ended(a.end)}</td>
                      <td className={`text-right ${a.minutesLess >= 0.5 ? "text-error" : ""}`}>
                        {a.minutesLess >= 0.5 ? `${showNumber(a.minutesLess, 1)} min` : "none"}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </Table>
            )}
          </Scroller>
          <Scroller>
            <h3 className="text-lg">Other policies on this night</h3>
            <Table aria-label="Other policies on this night">
              <thead>
                <tr>
                  <th>Policy</th>
                  <th className="text-right">Trips</th>
                  <th className="text-right">For nothing</th>
                  <th className="text-right">Isolated after</th>
                  <th className="text-right">Lost</th>
                  <th className="text-right">Not watered</th>
                  <th>Locked out</th>
                </tr>
              </thead>
              <tbody>
                {found.rows.map((r) => (
                  <tr key={r.policy}>
                    <td>{SCHOOLS.find((s) => s.id === r.policy)?.name ?? r.policy}</td>
                    <td className="text-right">{r.trips}</td>
                    <td className={`text-right ${r.falseTrips > 0 ? "text-warning" : ""}`}>{r.falseTrips}</td>
                    <td className="text-right">{isolatedWords(r.secondsToIsolate)}</td>
                    <td className="text-right">{showQuantity(r.litresLost, "volume", units)}</td>
                    <td className="text-right">{showNumber(r.minutesNotWatered)} min</td>
                    <td>{r.lockouts.map(name).join(", ") || "none"}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </Scroller>
        </div>
      )}
    </section>
  );
}
