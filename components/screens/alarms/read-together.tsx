"use client";
import { Button } from "@/components/kit/button";
import { useMemo } from "react";
import { diagnose } from "@/core/diagnose/diagnose";
import { CAUSE_WORDS, PATTERN_WORDS } from "@/core/diagnose/words";
import type { SiteFile } from "@/core/site-file/schema";
import type { Alarm } from "@/contracts/alarms";

/** The open alarms of a site read together: what it likely is, the next check, and what each answer would mean. What was found is noted as a cause. */
export function ReadTogether({
  site,
  alarms,
  canEdit,
  onCause,
}: {
  site: SiteFile;
  alarms: Alarm[];
  canEdit: boolean;
  onCause: (alarmIds: string[], cause: string) => void;
}) {
  const readings = useMemo(
    () =>
      diagnose(
        site,
        alarms.map((a) => ({
          id: a.id,
          at: a.at,
          kind: a.kind,
          subjectId: a.subjectId,
          measuredLpm: a.measuredLpm,
          expectedLpm: a.expectedLpm,
          state: a.state,
        })),
      ),
    [site, alarms],
  );
  if (readings.length === 0) return null;
  return (
    <section aria-label="Read together" className="border-l-4 border-error pl-3 my-3">
      <h4 className="font-semibold">Read together</h4>
      {readings.map((r) => (
        <div key={r.pattern + r.alarmIds.join()} className="mb-2">
          <p>
            <strong>{PATTERN_WORDS[r.pattern]}</strong>, {r.alarmIds.length} alarm{r.alarmIds.length > 1 ? "s" : ""}.
            Likeliest first:
          </p>
          <ol className="list-decimal pl-5">
            {r.likely.map((l, i) => {
              const words = CAUSE_WORDS[l.code];
              const station = site.stations.find((s) => s.id === l.stationId);
              return (
                <li key={l.code}>
                  <details open={i === 0}>
                    <summary className="cursor-pointer">
                      {words.cause}
                      {station ? `, maybe ${station.number} ${station.name}` : ""}
                    </summary>
                    <p>
                      <strong>Next check:</strong> {words.check}
                    </p>
                    <dl className="grid grid-cols-[2.5rem_1fr] text-sm">
                      <dt className="font-semibold">yes</dt>
                      <dd>{words.yes}</dd>
                      <dt className="font-semibold">no</dt>
                      <dd>{words.no}</dd>
                    </dl>
                    {canEdit && (
                      <Button
                        rank="quiet"
                        onClick={() =>
                          onCause(r.alarmIds, `${words.cause}${station ? `, ${station.number} ${station.name}` : ""}`)
                        }
                      >
                        Found: note this as the cause
                      </Button>
                    )}
                  </details>
                </li>
              );
            })}
          </ol>
        </div>
      ))}
    </section>
  );
}
