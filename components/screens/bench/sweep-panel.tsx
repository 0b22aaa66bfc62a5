"use client";
import { Mark } from "@/components/kit/notice";
import { Progress } from "@/components/kit/progress";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { type FaultKind, faultWords } from "@/core/bench/faults/kinds";
import { useEffect, useRef, useState } from "react";
import { TickField } from "@/components/kit/fields";
import { Cancelled, computeSweep } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import { subjectName } from "@/core/judge/alarm-words";
import {
  type SweepCell,
  type SweepOutcome,
  SWEPT,
  SWEPT_ON_MAINS,
  SWEPT_ON_STATIONS,
  sweepSubjects,
  type SweptPolicy,
  worstGaps,
} from "@/core/bench/sweep";
import { policyFrom } from "@/core/limits/advice";
import { SCHOOLS } from "@/core/limits/schools";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";

const MARK: Record<SweepOutcome, { sign: string; words: string; className: string }> = {
  found: { sign: "", words: "found in good time", className: "" },
  late: { sign: "", words: "found late", className: "" },
  told: { sign: "", words: "told, not shut off", className: "text-warning" },
  missed: { sign: "", words: "missed", className: "text-warning" },
  wrong: { sign: "", words: "something healthy shut off", className: "text-error font-semibold" },
};
const OUTCOMES = Object.keys(MARK) as SweepOutcome[];

/** Every station × every fault × chosen policies: what would be found, what not, what it costs, and the ten worst gaps. */
export function SweepPanel({ date }: { date: string }) {
  const { draft, units } = useWorkspace("draft", "units");
  const all: (SweptPolicy & { id: string })[] = [
    { id: "own", name: "as it stands", policy: draft.policy },
    ...SCHOOLS.map((s) => ({ id: s.id, name: s.name, policy: policyFrom(draft, s) })),
  ];
  const [kinds, setKinds] = useState<ReadonlySet<FaultKind>>(new Set(["brokenLateral", "stuckClosed"]));
  const [policies, setPolicies] = useState<ReadonlySet<string>>(new Set(["own"]));
  const [run, setRun] = useState<{
    site: SiteFile;
    date: string;
    kinds: FaultKind[];
    policies: string[];
    cells: SweepCell[];
    of: number;
    done: number;
    state: "running" | "done" | "stopped";
  } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const cancel = useRef<(() => void) | null>(null);
  useEffect(() => () => cancel.current?.(), []);
  const start = async (): Promise<void> => {
    setProblem(null);
    const chosenKinds = SWEPT.filter((k) => kinds.has(k));
    const chosen = all.filter((p) => policies.has(p.id)).map(({ name, policy }) => ({ name, policy }));
    const subjectIds = sweepSubjects(draft, date, chosenKinds);
    if (subjectIds.length === 0) {
      setProblem("Nothing that these faults belong on runs on this date.");
      return;
    }
    setRun({
      site: draft,
      date,
      kinds: chosenKinds,
      policies: chosen.map((p) => p.name),
      cells: [],
      of: subjectIds.length,
      done: 0,
      state: "running",
    });
    const job = computeSweep(draft, { date, kinds: chosenKinds, policies: chosen, subjectIds }, (cells) =>
      setRun((r) => (r ? { ...r, cells: [...r.cells, ...cells], done: r.done + 1 } : r)),
    );
    cancel.current = job.cancel;
    try {
      await job.promise;
      setRun((r) => (r ? { ...r, state: "done" } : r));
    } catch (error) {
      setRun((r) => (r ? { ...r, state: "stopped" } : r));
      if (!(error instanceof Cancelled)) setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      cancel.current = null;
    }
  };
  const toggle = <T,>(set: ReadonlySet<T>, value: T, on: boolean): ReadonlySet<T> => {
    const next = new Set(set);
    if (on) next.add(value);
    else next.delete(value);
    return next;
  };
  const running = run?.state === "running";
  const cell = new Map(run?.cells.map((c) => [`${c.subjectId} ${c.kind} ${c.policy}`, c]));
  const rows = run ? run.site.stations.filter((s) => run.cells.some((c) => c.subjectId === s.id)) : [];
  const stationKinds = run?.kinds.filter((k) => SWEPT_ON_STATIONS.includes(k)) ?? [];
  const mains = run ? run.cells.filter((c) => c.policy === run.policies[0] && !stationKinds.includes(c.kind)) : [];
  const count = (kind: FaultKind, policy: string, outcome: SweepOutcome): number =>
    run?.cells.filter((c) => c.kind === kind && c.policy === policy && c.outcome === outcome).length ?? 0;
  const lost = (kind: FaultKind, policy: string): number => {
    const mine = run?.cells.filter((c) => c.kind === kind && c.policy === policy) ?? [];
    return mine.length > 0 ? mine.reduce((a, c) => a + c.lostL, 0) / mine.length : 0;
  };
  const gaps = run && run.state !== "running" ? worstGaps(run.cells) : [];
  return (
    <section aria-label="Fault sweep">
      <p className="max-w-prose mb-2">
        Drops every fault chosen on every station, one at a time, as it first opens on the night of {date}, on every
        main, supply, pump and sensor a minute after its first station, and plays each night to its end under each
        policy: exact flows, no noise.
      </p>
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2 mb-2">
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">On stations</legend>
          {SWEPT_ON_STATIONS.map((k) => (
            <span key={k} className="mr-4">
              <TickField
                label={faultWords(k)}
                checked={kinds.has(k)}
                onCommit={(on) => setKinds(toggle(kinds, k, on))}
              />
            </span>
          ))}
        </fieldset>
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">On mains, supplies and sensors</legend>
          {SWEPT_ON_MAINS.map((k) => (
            <span key={k} className="mr-4">
              <TickField
                label={faultWords(k)}
                checked={kinds.has(k)}
                onCommit={(on) => setKinds(toggle(kinds, k, on))}
              />
            </span>
          ))}
        </fieldset>
        <fieldset disabled={running}>
          <legend className="text-sm text-faint">Policies</legend>
          {all.map((p) => (
            <span key={p.id} className="mr-4">
              <TickField
                label={p.name}
                checked={policies.has(p.id)}
                onCommit={(on) => setPolicies(toggle(policies, p.id, on))}
              />
            </span>
          ))}
        </fieldset>
        {running ? (
          <span className="inline-flex items-center gap-2 self-end">
            <Progress className="w-40" value={run.done} max={run.of} aria-label="Sweep" />
            <span>{run.cells.length} nights</span>
            <Button onClick={() => cancel.current?.()}>Stop, keep these</Button>
          </span>
        ) : (
          <Button
            rank="main"
            className="self-end"
            disabled={kinds.size === 0 || policies.size === 0 || draft.stations.length === 0}
            onClick={() => void start()}
          >
            Sweep {draft.stations.length} stations, {kinds.size} fault{kinds.size === 1 ? "" : "s"}, {policies.size}{" "}
            polic{policies.size === 1 ? "y" : "ies"}
          </Button>
        )}
      </div>
      {problem && (
        <p role="alert" className="text-error font-semibold">
          {problem}
        </p>
      )}
      {run && run.site !== draft && (
        <p className="text-warning">
          <Mark tone="caution" /> swept before the last change
        </p>
      )}
      {run && run.cells.length > 0 && (
        <>
          <p className="text-sm mb-1">
            {OUTCOMES.map((o) => (
              <span key={o} className="mr-4">
                <span className={MARK[o].className}>{MARK[o].sign}</span> {MARK[o].words}
              </span>
            ))}
          </p>
          <div className="overflow-x-auto">
            <Table aria-label="In sum">
              <thead>
                <tr>
                  <th>Policy</th>
                  <th>Fault</th>
                  {OUTCOMES.map((o) => (
                    <th key={o} className="text-right">
                      {MARK[o].sign} {MARK[o].words}
                    </th>
                  ))}
                  <th className="text-right">Lost on average</th>
                </tr>
              </thead>
              <tbody>
                {run.policies.flatMap((p) =>
                  run.kinds.map((k) => (
                    <tr key={p + k}>
                      <td>{p}</td>
                      <td>{faultWords(k)}</td>
                      {OUTCOMES.map((o) => (
                        <td key={o} className={`text-right ${count(k, p, o) > 0 ? MARK[o].className : "text-faint"}`}>
                          {count(k, p, o)}
                        </td>
                      ))}
                      <td className="text-right">{showQuantity(lost(k, p), "volume", units)}</td>
                    </tr>
                  )),
                )}
              </tbody>
            </Table>
          </div>
          {gaps.length > 0 && (
            <>
              <h3 className="text-lg mt-4">The {gaps.length} worst gaps</h3>
              <div className="overflow-x-auto">
                <Table aria-label="Worst gaps">
                  <thead>
                    <tr>
                      <th>On</th>
                      <th>Fault</th>
                      <th>Policy</th>
                      <th>What came of it</th>
                      <th className="text-right">Lost</th>
                      <th className="text-right">Others short</th>
                      <th>What to change</th>
                    </tr>
                  </thead>
                  <tbody>
                    {gaps.map((g) => (
                      <tr key={g.subjectId + g.kind + g.policy}>
                        <td>{subjectName(run.site, g.subjectId).replace(/^station /, "")}</td>
                        <td>{faultWords(g.kind)}</td>
                        <td>{g.policy}</td>
                        <td className={MARK[g.outcome].className}>
                          {MARK[g.outcome].words}
                          {g.seconds !== null ? `, ${Math.round(g.seconds / 60)} min` : ""}
                        </td>
                        <td className="text-right">{showQuantity(g.lostL, "volume", units)}</td>
                        <td className="text-right">{showNumber(g.othersMin)} min</td>
                        <td>{change(run.site, g)}</td>
                      </tr>
                    ))}
                  </tbody>
                </Table>
              </div>
            </>
          )}
          {mains.length > 0 && (
            <>
              <h3 className="text-lg mt-4">Mains, supplies and sensors</h3>
              <div className="overflow-x-auto">
                <Table aria-label="Mains, supplies and sensors">
                  <thead>
                    <tr>
                      <th>On</th>
                      <th>Fault</th>
                      {run.policies.map((p) => (
                        <th key={p}>{p}</th>
                      ))}
                    </tr>
                  </thead>
                  <tbody>
                    {mains.map(({ subjectId, kind }) => (
                      <tr key={subjectId + kind}>
                        <td>{subjectName(run.site, subjectId)}</td>
                        <td>{faultWords(kind)}</td>
                        {run.policies.map((p) => {
                          const c = cell.get(`${subjectId} ${kind} ${p}`);
                          return (
                            <td key={p} className={c ? MARK[c.outcome].className : ""}>
                              {c && (
                                <>
                                  {MARK[c.outcome].sign} {MARK[c.outcome].words}
                                  {c.seconds !== null ? `, ${Math.max(1, Math.round(c.seconds / 60))} min` : ""}
                                  {c.lostL > 0 ? `, ${showQuantity(c.lostL, "volume", units)} lost` : ""}
                                </>
                              )}
                            </td>
                          );
                        })}
                      </tr>
                    ))}
                  </tbody>
                </Table>
              </div>
            </>
          )}
          {rows.length > 0 && <h3 className="text-lg mt-4">Station by station</h3>}
          {rows.length > 0 && (
            <div className="max-h-[30rem] overflow-auto">
              <Table aria-label="Station by station">
                <thead>
                  <tr>
                    <th>Station</th>
                    {run.policies.flatMap((p) =>
                      stationKinds.map((k) => (
                        <th key={p + k} className="text-right">
                          {faultWords(k)}
                          <br />
                          <span className="text-faint font-normal">{p}</span>
                        </th>
                      )),
                    )}
                  </tr>
                </thead>
                <tbody>
                  {rows.map((s) => (
                    <tr key={s.id}>
                      <td>
                        {s.number} {s.name}
                      </td>
                      {run.policies.flatMap((p) =>
                        stationKinds.map((k) => {
                          const c = cell.get(`${s.id} ${k} ${p}`);
                          return (
                            <td key={p + k} className={`text-right ${c ? MARK[c.outcome].className : ""}`}>
                              {c ? (
                                <span
                                  title={`${MARK[c.outcome].words}; ${showQuantity(c.lostL, "volume", units)} lost${c.seconds !== null ? `, after ${Math.round(c.seconds)} s` : ""}`}
                                >
                                  {c.lostL > 0 ? showQuantity(c.lostL, "volume", units) : ""}{" "}
                                  <span aria-hidden="true">{MARK[c.outcome].sign}</span>
                                  <span className="sr-only">{MARK[c.outcome].words}</span>
                                </span>
                              ) : (
                                ""
                              )}
                            </td>
                          );
                        }),
                      )}
                    </tr>
                  ))}
                </tbody>
              </Table>
            </div>
          )}
        </>
      )}
    </section>
  );
}

/** What would close a gap, in one sentence. */
function change(site: SiteFile, g: SweepCell): string {
  if (g.outcome === "wrong" && SWEPT_ON_MAINS.includes(g.kind))
    return `${g.wrongly.map((id) => subjectName(site, id)).join(", ")} was blamed for it. ${g.kind === "sensorDead" ? "A pressure sensor at the connection tells a dead sensor from a supply." : "Let more stations run beside each other, or notify only until it is proved."}`;
  if (g.kind === "sensorDead")
    return "Nothing tells it from a closed supply. A pressure sensor with a low limit at the connection would name the sensor.";
  if (g.kind === "wrongK" && g.othersMin > 0)
    return "A limit shut the connection for it. Keep the burst limit well over what a constant a third too large would read of the fullest set, and prove the sensor after every change.";
  if (g.kind === "mainlineBreak" && g.outcome !== "told")
    return "No limit reaches it. Set a burst limit at the connection, and an off-schedule limit that shuts.";
  if ((g.kind === "supplyClosed" || g.kind === "pumpFailed") && g.outcome !== "told")
    return "No low limit sees it. Set one that finds and isolates, or a pressure limit at the connection.";
  if (g.kind === "wrongK" && g.outcome !== "told") return "Inside the limits: prove the sensor against the meter.";
  if (g.outcome === "wrong")
    return `${g.wrongly.map((id) => subjectName(site, id)).join(", ")} was shut off: ${g.kind === "stuckClosed" ? "alone, it leaves its pump without flow, which stops it at once. Let it run beside others, or notify only on low flow." : "learn again what runs beside it, and its sets."}`;
  if (g.outcome === "told") return "The response only tells. Choose find and isolate once the flows are learned.";
  if (g.outcome === "late")
    return "Its first sets hide it. Fewer at once, or longer between valve changes, so that it is judged sooner.";
  if (g.kind === "stuckClosed")
    return "Its flow is less than the low limit leaves to the set. A tighter low limit, or fewer beside it.";
  if (g.kind === "stuckOpen") return "Nothing judges the main after it. Set an off-schedule limit that shuts.";
  return "The set it runs in hides it. See Limits, worked out: a tighter limit, its set learned, or fewer at once.";
}
