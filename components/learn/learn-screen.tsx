"use client";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { TickField } from "@/components/fields/fields";
import { request } from "@/components/workspace/api";
import { useWorkspace } from "@/components/workspace/workspace";
import type { Baseline, Verdict } from "@/core/learn/learn";
import { refusals, type RefusalReason } from "@/core/learn/refusals";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import type { LearningMessage, LearningView } from "@/server/services/learning";
import { Trace, type TracePoint } from "./trace";

export const REFUSAL_WORDS: Record<RefusalReason, string> = {
  noRunTime: "has no run time in any program", noSensor: "has no working sensor above it", lockedOut: "is locked out", excluded: "is excluded (not watched)",
  flowAtRest: "water flows with everything closed", belowPumpMinimum: "is below the pump's minimum and cannot run alone", noSupply: "has no supply",
};
const VERDICT_WORDS: Record<Verdict, string> = { accepted: "accepted", unsteady: "unsteady", noFlow: "no flow seen", overCeiling: "over the ceiling", stopped: "stopped" };
const CAUSES = { high: "broken or missing nozzle, larger nozzles, two valves wired together, a leak", low: "throttled flow control, clogged filter, valve half open, wrong nozzles, low pressure" };

type Row = { stationId: string; verdict: Verdict; meanLpm: number; sdLpm: number; secondsToSteady: number | null; taken: boolean };

/** Learning on the bench: what would be refused and why, time and water, a live trace, proposals to take or leave. */
export function LearnScreen() {
  const { draft, siteId, units, canEdit, changes, adopt, date } = useWorkspace();
  const [chosen, setChosen] = useState<Set<string> | null>(null);
  const [pace, setPace] = useState(240);
  const [runId, setRunId] = useState<string | null>(null);
  const [state, setState] = useState<"idle" | "running" | "done" | "stopped" | "failed">("idle");
  const [rows, setRows] = useState<Row[]>([]);
  const [rest, setRest] = useState<Baseline | null>(null);
  const [live, setLive] = useState<{ stationId: string | null; points: TracePoint[] }>({ stationId: null, points: [] });
  const [problem, setProblem] = useState<string | null>(null);
  const [take, setTake] = useState<Set<string>>(new Set());
  const source = useRef<EventSource | null>(null);
  const refused = useMemo(() => refusals(draft), [draft]);
  const refusedIds = useMemo(() => new Map(refused.map((r) => [r.stationId, r.reasons])), [refused]);
  const able = draft.stations.filter((s) => !refusedIds.has(s.id));
  const picked = chosen ?? new Set(able.map((s) => s.id));
  const estimate = useMemo(() => estimateOf(draft, able.filter((s) => picked.has(s.id)).map((s) => s.id)), [draft, able, picked]);
  const station = useCallback((id: string | null) => draft.stations.find((s) => s.id === id), [draft.stations]);

  const watch = useCallback((id: string): void => {
    source.current?.close();
    const events = new EventSource(`/api/sites/${siteId}/learning/${id}`);
    source.current = events;
    events.onmessage = ({ data }) => {
      const message = JSON.parse(data) as LearningMessage | { type: "watching" };
      switch (message.type) {
        case "watching": return;
        case "opens": setLive({ stationId: message.stationId, points: [] }); return;
        case "samples": setLive((l) => ({ stationId: message.stationId, points: [...(l.stationId === message.stationId ? l.points : []), ...message.rows.map(([at, lpm, settling]) => ({ at, lpm, settling: settling === 1 }))].slice(-900) })); return;
        case "baseline": setRest(message.baseline); return;
        case "result": setRows((r) => [...r.filter((x) => x.stationId !== message.result.stationId), { ...message.result, taken: false }]); if (message.result.verdict === "accepted") setTake((t) => new Set([...t, message.result.stationId])); return;
        case "refused": return;
        case "ended": setState(message.state); events.close(); return;
      }
    };
    events.onerror = () => { if (events.readyState === EventSource.CLOSED) setState((s) => (s === "running" ? "failed" : s)); };
  }, [siteId]);

  useEffect(() => {
    let gone = false;
    request<LearningView>("GET", `/api/sites/${siteId}/learning`).then((view) => {
      if (gone || !view.run) return;
      setRunId(view.run.id);
      setRows(view.results.map((r) => ({ stationId: r.element_id, verdict: r.verdict, meanLpm: r.mean_lpm, sdLpm: r.sd_lpm, secondsToSteady: r.seconds_to_steady, taken: r.taken_at !== null })));
      setTake(new Set(view.results.filter((r) => r.verdict === "accepted" && r.taken_at === null).map((r) => r.element_id)));
      if (view.run.state === "queued" || view.run.state === "running") { setState("running"); watch(view.run.id); } else setState(view.run.state);
    }, () => {});
    return () => { gone = true; source.current?.close(); };
  }, [siteId, watch]);

  const start = async (): Promise<void> => {
    setProblem(null);
    try {
      const started = await request<{ runId: string }>("POST", `/api/sites/${siteId}/learning`, { stationIds: able.filter((s) => picked.has(s.id)).map((s) => s.id), faults: [], seed: 1 + (Date.now() % 1000), pace, date });
      setRows([]); setTake(new Set()); setRest(null); setLive({ stationId: null, points: [] });
      setRunId(started.runId); setState("running");
      watch(started.runId);
    } catch (error) { setProblem(error instanceof Error ? error.message : String(error)); }
  };
  const stop = (): void => { if (runId) void request("DELETE", `/api/sites/${siteId}/learning/${runId}`).catch(() => {}); };
  const accept = async (): Promise<void> => {
    if (!runId) return;
    setProblem(null);
    try {
      const saved = await request<{ version: number; file: SiteFile }>("POST", `/api/sites/${siteId}/learning/${runId}`, { stationIds: [...take] });
      adopt(saved.file, saved.version);
      setRows((r) => r.map((x) => (take.has(x.stationId) ? { ...x, taken: true } : x)));
      setTake(new Set());
    } catch (error) { setProblem(error instanceof Error ? error.message : String(error)); }
  };
  const running = state === "running";
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 mb-2">
        <h2 className="text-2xl mr-2">Learn</h2>
        <label className="w-52"><span className="block text-sm faint">Pace of the bench</span>
          <select className="entry" value={pace} onChange={(e) => setPace(Number(e.target.value))} disabled={running}><option value={60}>a minute a second</option><option value={240}>four minutes a second</option><option value={0}>as fast as it computes</option></select>
        </label>
        {canEdit && !running && <button type="button" className="act act-main" onClick={start} disabled={estimate.count === 0 || changes.length > 0}>Learn {estimate.count} station{estimate.count === 1 ? "" : "s"} on the bench</button>}
        {running && <button type="button" className="act" onClick={stop}>Stop, keep what it has</button>}
        <p>{changes.length > 0 ? <span className="text-warning">Save your changes first; learning runs on the saved configuration.</span> : <>About <strong>{showNumber(estimate.seconds / 60)} min</strong> of site time and <strong>{showQuantity(estimate.litres, "volume", units)}</strong>; one at a time, nothing else running.</>}</p>
      </div>
      {problem && <p role="alert" className="text-error font-semibold mb-2">{problem}</p>}
      {rest && (rest.flowing
        ? <p role="alert" className="mb-2 text-error font-semibold">Water flows with everything closed: {showQuantity(rest.measuredLpm, "flow", units, 1)}. Find it before learning; read the meter for ten minutes.</p>
        : <p className="mb-2">Baseline: nothing over the sensor's minimum of {showQuantity(rest.limitLpm, "flow", units, 1)} with everything closed. A smaller leak hides under it; read the meter for ten minutes to be sure.</p>)}
      {running && (
        <section aria-label="Live trace" className="mb-4">
          <p role="status" className="font-semibold">{live.stationId ? `Station ${station(live.stationId)?.number} ${station(live.stationId)?.name} runs alone` : "Baseline: everything closed"}, {rows.length} of {estimate.count} done</p>
          <Trace points={live.points} expectedLpm={live.stationId ? (expectedFlow(station(live.stationId) as SiteFile["stations"][number])?.lpm ?? null) : 0} units={units} />
        </section>
      )}
      <div className="grid xl:grid-cols-[minmax(0,1fr)_24rem] gap-8">
        <section aria-label="Proposals" className="min-w-0 overflow-x-auto">
          <div className="flex flex-wrap items-center gap-3 mb-1">
            <h3 className="text-lg">Proposals</h3>
            {rows.length > 0 && canEdit && (
              <>
                <button type="button" className="act act-main" onClick={accept} disabled={take.size === 0 || running || changes.length > 0}>Take {take.size} learned flow{take.size === 1 ? "" : "s"}</button>
                <button type="button" className="act" onClick={() => setTake(new Set(rows.filter((r) => r.verdict === "accepted" && !r.taken).map((r) => r.stationId)))}>All accepted</button>
                <button type="button" className="act" onClick={() => setTake(new Set())}>None</button>
              </>
            )}
            {state === "failed" && <span role="alert" className="text-error">Learning failed on the server; start it again.</span>}
            {state === "stopped" && <span>Stopped; what was learned is kept below.</span>}
          </div>
          {rows.length === 0 ? <p className="faint">{running ? "The first result comes after the baseline test." : "Nothing learned yet on this site. Results come here as proposals beside what stands now; nothing is replaced until you take it."}</p> : (
            <table className="sheet">
              <thead><tr><th>Take</th><th>Station</th><th>Verdict</th><th className="num">Learned</th><th className="num">± s.d.</th><th className="num">Steady after</th><th className="num">Stands now</th><th className="num">Design</th><th>Difference</th></tr></thead>
              <tbody>
                {rows.map((r) => {
                  const s = station(r.stationId);
                  if (!s) return null;
                  const now = expectedFlow(s);
                  const off = s.designFlowLpm ? r.meanLpm / s.designFlowLpm - 1 : null;
                  return (
                    <tr key={r.stationId}>
                      <td>{r.taken ? "taken" : r.verdict === "accepted" ? <input type="checkbox" className="size-4" aria-label={`Take station ${s.number}`} checked={take.has(r.stationId)} disabled={!canEdit} onChange={(e) => setTake((t) => { const n = new Set(t); if (e.target.checked) n.add(r.stationId); else n.delete(r.stationId); return n; })} /> : "–"}</td>
                      <td>{s.number} {s.name}</td>
                      <td className={r.verdict === "accepted" ? "" : "text-error font-semibold"}>{VERDICT_WORDS[r.verdict]}</td>
                      <td className="num font-semibold">{showQuantity(r.meanLpm, "flow", units, 1)}</td>
                      <td className="num">{showQuantity(r.sdLpm, "flow", units, 2)}</td>
                      <td className="num">{r.secondsToSteady === null ? "–" : `${r.secondsToSteady} s`}</td>
                      <td className="num">{now ? `${showQuantity(now.lpm, "flow", units, 1)} ${now.from === "entered" ? "by hand" : now.from}` : "none"}</td>
                      <td className="num">{s.designFlowLpm === undefined ? "–" : showQuantity(s.designFlowLpm, "flow", units, 1)}</td>
                      <td>{off === null ? "" : Math.abs(off) > 0.15 ? <span className="text-warning">▲ {off > 0 ? "+" : "−"}{Math.abs(off * 100).toFixed(0)} %: {off > 0 ? CAUSES.high : CAUSES.low}</span> : `${off >= 0 ? "+" : "−"}${Math.abs(off * 100).toFixed(0)} %`}</td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
        </section>
        <section aria-label="What will be learned">
          <h3 className="text-lg">What will be learned</h3>
          {refused.length > 0 && (
            <>
              <p className="font-semibold mt-1">Refused, {refused.length}:</p>
              <ul className="mb-3">{refused.map((r) => <li key={r.stationId} className="text-warning">✕ {station(r.stationId)?.number} {station(r.stationId)?.name}: {r.reasons.map((x) => REFUSAL_WORDS[x]).join("; ")}</li>)}</ul>
            </>
          )}
          {draft.stations.length === 0 && <p>No stations yet.</p>}
          <div className="max-h-96 overflow-y-auto">
            {able.map((s) => (
              <div key={s.id}><TickField label={`${s.number} ${s.name}${s.learned ? `, learned ${s.learned.at.slice(0, 10)}` : ", never learned"}`} checked={picked.has(s.id)} disabled={running || !canEdit} onCommit={(on) => setChosen(() => { const n = new Set(picked); if (on) n.add(s.id); else n.delete(s.id); return n; })} /></div>
            ))}
          </div>
        </section>
      </div>
    </>
  );
}

/** Hold-off and the sample window for each, filling once: what a calm run takes. */
function estimateOf(site: SiteFile, ids: string[]): { count: number; seconds: number; litres: number } {
  const holdOff = Math.max(60, ...site.mainlines.map((m) => m.holdOffS ?? 60));
  const fill = Math.max(0, ...site.mainlines.map((m) => m.fillS ?? 120));
  const each = holdOff + 30;
  const litres = ids.reduce((sum, id) => {
    const s = site.stations.find((x) => x.id === id);
    return sum + ((s ? (expectedFlow(s)?.lpm ?? 0) : 0) * each) / 60;
  }, 0);
  return { count: ids.length, seconds: ids.length === 0 ? 0 : fill + 30 + ids.length * each, litres };
}
