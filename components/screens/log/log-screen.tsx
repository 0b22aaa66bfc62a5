"use client";
import { CircleDot } from "lucide-react";
import { Button } from "@/components/kit/button";
import { useCallback, useEffect, useState } from "react";
import { AlarmCard } from "@/components/screens/alarms/alarm-card";
import type { Alarm, AlarmEntry, Person } from "@/components/data/alarm-types";
import { ReadTogether } from "@/components/screens/alarms/read-together";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { ChangeList } from "./change-list";
import { request, RequestRefused } from "@/components/data/request";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { subjectName } from "@/core/judge/alarm-words";
import { localIso } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";

type Revision = {
  version: number;
  note: string;
  made_at: string;
  made_by_name: string;
  changes: { path: string; words: string }[];
};
/** Alarms with acknowledge, cause and clear; revisions with differences and putting back. Nothing is ever deleted. */
export function LogScreen() {
  const { siteId, draft, adopt, version, canEdit, isManager, units } = useWorkspace(
    "siteId",
    "draft",
    "adopt",
    "version",
    "canEdit",
    "isManager",
    "units",
  );
  const { setLog } = useSiteLog();
  const changes = useChanges();
  const [alarms, setAlarms] = useState<Alarm[] | null>(null);
  const [entries, setEntries] = useState<AlarmEntry[]>([]);
  const [people, setPeople] = useState<Person[]>([]);
  const [revisions, setRevisions] = useState<Revision[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const load = useCallback(async (): Promise<void> => {
    try {
      const book = await request<{ alarms: Alarm[]; entries: AlarmEntry[]; people: Person[]; revisions: Revision[] }>(
        "GET",
        `/api/sites/${siteId}/log`,
      );
      setAlarms(book.alarms);
      setEntries(book.entries);
      setPeople(book.people);
      setRevisions(book.revisions);
      setLog({ openAlarms: book.alarms.filter((a) => a.state !== "cleared").length });
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  }, [siteId]);
  useEffect(() => {
    void load();
  }, [load, version]);
  useAlarmNews(() => void load());

  const act = async (alarm: Alarm, body: unknown): Promise<boolean> => {
    setProblem(null);
    try {
      const done = await request<{ version: number; file: SiteFile }>(
        "POST",
        `/api/sites/${siteId}/alarms/${alarm.id}`,
        body,
      );
      if (changes.length === 0 && done.version > version) adopt(done.file, done.version);
      await load();
      return true;
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      return false;
    }
  };
  const putBack = async (revision: number): Promise<void> => {
    setProblem(null);
    try {
      const done = await request<{ version: number; file: SiteFile }>(
        "POST",
        `/api/sites/${siteId}/revisions/${revision}`,
        { baseVersion: version },
      );
      adopt(done.file, done.version);
      await load();
    } catch (error) {
      setProblem(
        error instanceof RequestRefused && error.code === "staleVersion"
          ? `${error.message} Reload the page to see it, then put back.`
          : error instanceof Error
            ? error.message
            : String(error),
      );
    }
  };
  const when = (iso: string): string =>
    localIso(draft.site.timeZone, Math.floor(Date.parse(iso) / 1000))
      .slice(0, 16)
      .replace("T", " ");
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 mb-2">
        <h2 className="text-xl mr-2">Log</h2>
        <a href={`/api/sites/${siteId}/file`} download>
          Export the site file
        </a>
      </div>
      {problem && (
        <p role="alert" className="text-error font-semibold mb-2">
          {problem}
        </p>
      )}
      <div className="grid xl:grid-cols-2 gap-10">
        <section aria-label="Alarms">
          <h3 className="text-lg border-b-2 border-base-content">Alarms</h3>
          {alarms === null && <p role="status">Reading the log…</p>}
          {alarms?.length === 0 && (
            <p className="my-2 text-faint">No alarm yet. Rehearse a night on the Bench and take it into the log.</p>
          )}
          {alarms && (
            <ReadTogether
              site={draft}
              alarms={alarms}
              canEdit={canEdit}
              onCause={(ids, cause) =>
                void (async () => {
                  for (const a of alarms.filter((x) => ids.includes(x.id) && x.state !== "cleared"))
                    await act(a, { action: "cause", cause });
                })()
              }
            />
          )}
          {alarms?.map((a) => (
            <AlarmCard
              key={a.id + (a.cause ?? "")}
              alarm={a}
              entries={entries.filter((e) => e.alarm_id === a.id)}
              people={people}
              units={units}
              name={(id) => subjectName(draft, id)}
              when={when}
              canEdit={canEdit}
              act={act}
            />
          ))}
        </section>
        <section aria-label="Revisions">
          <h3 className="text-lg border-b-2 border-base-content">Revisions of the configuration</h3>
          {revisions.map((r) => (
            <article key={r.version} className="py-2 border-b border-base-300">
              <div className="flex flex-wrap items-baseline gap-x-3">
                <strong>{r.version}</strong>
                <span>
                  {when(r.made_at)}, {r.made_by_name}
                </span>
                {r.note && <em>{r.note}</em>}
                <span className="grow" />
                {r.version === version ? (
                  <span className="font-semibold">
                    <CircleDot className="inline size-[1em] align-[-0.12em]" aria-hidden /> in force
                  </span>
                ) : (
                  isManager && (
                    <Button disabled={changes.length > 0} onClick={() => putBack(r.version)}>
                      Put back
                    </Button>
                  )
                )}
              </div>
              <details>
                <summary className="cursor-pointer text-sm text-faint">
                  {r.changes.length} change{r.changes.length === 1 ? "" : "s"}
                  {r.changes[0] ? `: ${r.changes[0].words}` : ""}
                </summary>
                <ChangeList changes={r.changes} all />
              </details>
            </article>
          ))}
        </section>
      </div>
    </>
  );
}
