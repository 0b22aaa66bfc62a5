"use client";
import { useMemo } from "react";
import { useTodos } from "@/components/data/use-visits";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { usePressures } from "@/components/draft/use-pressures";
import { ScreenBar } from "@/components/frame/screen-bar";
import { ButtonLink } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Mark, Problem } from "@/components/kit/notice";
import { check } from "@/core/check/check";
import type { Finding, Severity } from "@/core/check/finding";
import { localDate } from "@/core/dates/wall-time";
import { placeOf } from "./place-of";

const TONES = { error: "alarm", warning: "caution", note: "note" } as const;
const ORDER: Severity[] = ["error", "warning", "note"];

/** Everything wrong, doubtful or worth knowing, with the way to where it is mended. */
export function FindingsScreen() {
  const { draft, date } = useWorkspace("draft", "date");
  const { date: write } = useConventions();
  const night = useNight();
  const pressures = usePressures(draft, null);
  const findings = useMemo(() => check(draft), [draft]);
  const warnings = night?.plan.warnings ?? [];
  return (
    <>
      <ScreenBar title="Findings" />
      <div className="max-w-4xl space-y-5">
        <section aria-labelledby="of-site">
          <h3 id="of-site" className="text-lg">
            The site
          </h3>
          {findings.length === 0 ? <p>Nothing is wrong or doubtful.</p> : <FindingList findings={findings} />}
        </section>
        <section aria-labelledby="of-load">
          <h3 id="of-load" className="text-lg">
            Pressure under load
          </h3>
          {pressures.state === "working" && (
            <p className="text-faint" role="status">
              Solving the network…
            </p>
          )}
          {pressures.state === "failed" && <Problem>The network could not be solved: {pressures.message}</Problem>}
          {pressures.state === "done" && pressures.findings.length === 0 && <p>No valve is short of pressure.</p>}
          {pressures.state === "done" && pressures.findings.length > 0 && <FindingList findings={pressures.findings} />}
        </section>
        <ToDo />
        {warnings.length > 0 && (
          <section aria-labelledby="of-night">
            <h3 id="of-night" className="text-lg">
              The night of {write(date)}
            </h3>
            <ul>
              {warnings.map((w) => (
                <li key={`${w.code}${w.subjectId}${w.at}`} className="flex gap-3 border-b border-base-300 py-1">
                  <Mark tone="caution" />
                  {w.message}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </>
  );
}

/** What somebody found and nobody has done yet. */
function ToDo() {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const { date } = useConventions();
  const { todos } = useTodos(siteId);
  const open = todos?.filter((t) => !t.done) ?? [];
  if (open.length === 0) return null;
  const today = localDate(draft.site.timeZone, Math.floor(Date.now() / 1000));
  return (
    <section aria-labelledby="to-do">
      <h3 id="to-do" className="text-lg">
        To do
      </h3>
      <ul>
        {open.map((t) => (
          <li key={t.id} className="flex items-baseline gap-3 border-b border-base-300 py-1">
            <span className="w-20 shrink-0">
              <Mark tone={t.due !== null && t.due < today ? "caution" : "note"}>
                {t.due !== null && t.due < today ? "overdue" : "to do"}
              </Mark>
            </span>
            <span className="grow">
              {t.words}
              <span className="text-faint">
                {t.owner ? `, ${t.owner}` : ""}
                {t.due ? `, by ${date(t.due)}` : ""}
              </span>
            </span>
            <ButtonLink rank="quiet" className="shrink-0" href={`/sites/${siteId}/log?view=todo&at=${t.id}`}>
              Go there
            </ButtonLink>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Errors first. */
function FindingList({ findings }: { findings: readonly Finding[] }) {
  const { siteId } = useWorkspace("siteId");
  const sorted = ORDER.flatMap((severity) => findings.filter((f) => f.severity === severity));
  return (
    <ul>
      {sorted.map((f) => (
        <li
          key={`${f.code}${f.path}${f.subjectId}`}
          className="flex items-baseline gap-3 border-b border-base-300 py-1"
        >
          <span className="w-20 shrink-0">
            <Mark tone={TONES[f.severity]}>{f.severity}</Mark>
          </span>
          <span className="grow">{f.message}</span>
          <ButtonLink rank="quiet" className="shrink-0" href={`/sites/${siteId}/${placeOf(f)}`}>
            Go there
          </ButtonLink>
        </li>
      ))}
    </ul>
  );
}
