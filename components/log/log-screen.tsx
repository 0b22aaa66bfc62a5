"use client";
import { TickField } from "@/components/fields/fields";
import Link from "next/link";
import { useCallback, useEffect, useState } from "react";
import { ChangeList } from "@/components/frame/save-bar";
import { request, RequestRefused } from "@/components/workspace/api";
import { useWorkspace } from "@/components/workspace/workspace";
import { subjectName } from "@/core/bench/alarm-words";
import { localIso } from "@/core/calendar/wall-time";
import type { SiteFile } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";

type Alarm = {
  id: string; at: string; kind: string; subject_id: string; measured_lpm: number; expected_lpm: number; message: string; locked: string[]; state: "open" | "acknowledged" | "cleared";
  cause: string | null; acknowledged_at: string | null; acknowledged_by_name: string | null; cleared_at: string | null; cleared_by_name: string | null;
};
type Revision = { version: number; note: string; made_at: string; made_by_name: string; changes: { path: string; words: string }[] };
const KIND_WORDS: Record<string, string> = { stationHigh: "station high", stationLow: "station low", mainline: "mainline", supply: "supply", burst: "burst", offSchedule: "off schedule", notFoundAgain: "not found again", pumpNoFlow: "pump without flow", sensor: "sensor" };

/** Alarms with acknowledge, cause and clear; revisions with differences and putting back. Nothing is ever deleted. */
export function LogScreen() {
  const { siteId, draft, adopt, setLog, version, canEdit, isManager, changes } = useWorkspace();
  const [alarms, setAlarms] = useState<Alarm[] | null>(null);
  const [revisions, setRevisions] = useState<Revision[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const load = useCallback(async (): Promise<void> => {
    try {
      const book = await request<{ alarms: Alarm[]; revisions: Revision[] }>("GET", `/api/sites/${siteId}/log`);
      setAlarms(book.alarms);
      setRevisions(book.revisions);
      setLog({ openAlarms: book.alarms.filter((a) => a.state !== "cleared").length });
    } catch (error) { setProblem(error instanceof Error ? error.message : String(error)); }
  }, [siteId]);
  useEffect(() => { void load(); }, [load, version]);

  const act = async (alarm: Alarm, body: unknown): Promise<boolean> => {
    setProblem(null);
    try {
      const done = await request<{ version: number; file: SiteFile }>("POST", `/api/sites/${siteId}/alarms/${alarm.id}`, body);
      if (changes.length === 0 && done.version > version) adopt(done.file, done.version);
      await load();
      return true;
    } catch (error) { setProblem(error instanceof Error ? error.message : String(error)); return false; }
  };
  const putBack = async (revision: number): Promise<void> => {
    setProblem(null);
    try {
      const done = await request<{ version: number; file: SiteFile }>("POST", `/api/sites/${siteId}/revisions/${revision}`, { baseVersion: version });
      adopt(done.file, done.version);
      await load();
    } catch (error) { setProblem(error instanceof RequestRefused && error.code === "staleVersion" ? `${error.message} Reload the page to see it, then put back.` : error instanceof Error ? error.message : String(error)); }
  };
  const when = (iso: string): string => localIso(draft.site.timeZone, Math.floor(Date.parse(iso) / 1000)).slice(0, 16).replace("T", " ");
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 mb-2">
        <h2 className="text-2xl mr-2">Log</h2>
        <a className="act" href={`/api/sites/${siteId}/file`} download>Export the site file</a>
      </div>
      {problem && <p role="alert" className="text-error font-semibold mb-2">{problem}</p>}
      <div className="grid xl:grid-cols-2 gap-10">
        <section aria-label="Alarms">
          <h3 className="text-lg border-b-2 border-base-content">Alarms</h3>
          {alarms === null && <p role="status">Reading the log…</p>}
          {alarms?.length === 0 && <p className="my-2 faint">No alarm yet. Rehearse a night on the Bench and take it into the log.</p>}
          {alarms?.map((a) => <AlarmEntry key={a.id} alarm={a} when={when} canEdit={canEdit} act={act} />)}
        </section>
        <section aria-label="Revisions">
          <h3 className="text-lg border-b-2 border-base-content">Revisions of the configuration</h3>
          {revisions.map((r) => (
            <article key={r.version} className="py-2 border-b rule">
              <div className="flex flex-wrap items-baseline gap-x-3">
                <strong>{r.version}</strong><span>{when(r.made_at)}, {r.made_by_name}</span>{r.note && <em>{r.note}</em>}
                <span className="grow" />
                {r.version === version ? <span className="font-semibold">● in force</span> : isManager && <button type="button" className="act" disabled={changes.length > 0} onClick={() => putBack(r.version)}>Put back</button>}
              </div>
              <details><summary className="cursor-pointer text-sm faint">{r.changes.length} change{r.changes.length === 1 ? "" : "s"}{r.changes[0] ? `: ${r.changes[0].words}` : ""}</summary><ChangeList changes={r.changes} all /></details>
            </article>
          ))}
        </section>
      </div>
    </>
  );
}

function AlarmEntry({ alarm, when, canEdit, act }: { alarm: Alarm; when: (iso: string) => string; canEdit: boolean; act: (alarm: Alarm, body: unknown) => Promise<boolean> }) {
  const { draft, units, siteId } = useWorkspace();
  const [cause, setCause] = useState(alarm.cause ?? "");
  const [repaired, setRepaired] = useState(true);
  const cleared = alarm.state === "cleared";
  const relearn = alarm.kind === "stationHigh" || alarm.kind === "stationLow";
  return (
    <article className="py-3 border-b rule" aria-label={`Alarm ${KIND_WORDS[alarm.kind]} ${subjectName(draft, alarm.subject_id)}`}>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className={cleared ? "faint" : "text-error font-semibold text-lg"}>{cleared ? "✓ cleared" : alarm.state === "acknowledged" ? "⬢ acknowledged" : "⬢ open"}</span>
        <strong>{KIND_WORDS[alarm.kind]}</strong><span>{subjectName(draft, alarm.subject_id)}</span><span className="faint">{when(alarm.at)}</span>
      </div>
      <p>{alarm.message}</p>
      <p className="text-sm faint">Read {showQuantity(alarm.measured_lpm, "flow", units, 1)}, expected {showQuantity(alarm.expected_lpm, "flow", units, 1)}{alarm.locked.length > 0 ? `; ${cleared ? "had locked" : "locks"} out ${alarm.locked.map((id) => subjectName(draft, id)).join(", ")}` : ""}.
        {alarm.acknowledged_by_name && ` Acknowledged by ${alarm.acknowledged_by_name}${alarm.acknowledged_at ? `, ${when(alarm.acknowledged_at)}` : ""}.`}{alarm.cleared_by_name && ` Cleared by ${alarm.cleared_by_name}${alarm.cleared_at ? `, ${when(alarm.cleared_at)}` : ""}: ${alarm.cause}.`}</p>
      {cleared && relearn && <Link className="act act-quiet" href={`/sites/${siteId}/learn`}>Repaired? Learn it again</Link>}
      {!cleared && canEdit && (
        <form className="flex flex-wrap items-end gap-2 mt-1" onSubmit={(e) => { e.preventDefault(); void act(alarm, { action: "clear", cause, ...(relearn && repaired ? { repaired } : {}) }); }}>
          {alarm.state === "open" && <button type="button" className="act" onClick={() => act(alarm, { action: "acknowledge" })}>Acknowledge</button>}
          <label className="grow min-w-48"><span className="block text-sm faint">Cause, as found</span><input className="entry" value={cause} maxLength={1000} onChange={(e) => setCause(e.target.value)} /></label>
          <button type="button" className="act" disabled={cause.trim().length < 3 || cause === (alarm.cause ?? "")} onClick={() => act(alarm, { action: "cause", cause })}>Note the cause</button>
          {relearn && <TickField label="repaired: learn its flow again" checked={repaired} onCommit={setRepaired} />}
          <button type="submit" className="act act-main" disabled={cause.trim().length < 3}>Clear{alarm.locked.length > 0 ? " and unlock" : ""}</button>
        </form>
      )}
    </article>
  );
}
