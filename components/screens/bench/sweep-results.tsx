"use client";
import { Scroller } from "@/components/kit/scroller";
import { Bell, CircleCheck, Clock, EyeOff, type LucideIcon, OctagonX, Sunrise } from "lucide-react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useNightsFind } from "@/components/draft/use-nights-find";
import { classes } from "@/components/kit/classes";
import { Table } from "@/components/kit/table";
import { type FaultKind, faultWords } from "@/core/bench/faults/kinds";
import { type SweepCell, type SweepOutcome, SWEPT_ON_STATIONS, worstGaps } from "@/core/bench/sweep";
import { isFoundNextMorning } from "@/core/reckon/next-morning";
import { subjectName } from "@/core/judge/alarm-words";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity } from "@/core/units/units";
import { gapRemedy } from "./gap-remedy";

/** A sweep as far as it has come. */
export type SweepRun = {
  site: SiteFile;
  date: string;
  kinds: FaultKind[];
  policies: string[];
  cells: SweepCell[];
  of: number;
  done: number;
  state: "running" | "done" | "stopped";
};

const MARKS: Record<SweepOutcome, { icon: LucideIcon; words: string; className: string }> = {
  found: { icon: CircleCheck, words: "found in good time", className: "" },
  late: { icon: Clock, words: "found late", className: "" },
  told: { icon: Bell, words: "told, not shut off", className: "text-warning" },
  missed: { icon: EyeOff, words: "missed", className: "text-warning" },
  wrong: { icon: OctagonX, words: "something healthy shut off", className: "text-error font-semibold" },
};
const OUTCOMES = Object.keys(MARKS) as SweepOutcome[];

/** What came of a fault, as a shape; its words beside it, or for readers only. */
function Outcome({ of, short }: { of: SweepOutcome; short?: boolean }) {
  const { icon: Icon, words, className } = MARKS[of];
  return (
    <span className={classes("inline-flex items-center gap-1", className)}>
      <Icon className="size-4 shrink-0" aria-hidden />
      <span className={short ? "sr-only" : undefined}>{words}</span>
    </span>
  );
}

/** What a sweep has found so far: in sum, its worst gaps, and place by place. */
export function SweepResults({ run }: { run: SweepRun }) {
  const nights = useNightsFind(run.state === "running" ? null : run.site, run.date);
  /** What limits miss and the night's readings name; null while that is not known. */
  const nextMorning: NextMorning = nights && ((c) => c.outcome === "missed" && isFoundNextMorning(run.site, nights, c));
  return (
    <>
      <InSum run={run} nextMorning={nextMorning} />
      {run.state !== "running" && <Gaps run={run} />}
      <OnMains run={run} />
      <OnStations run={run} nextMorning={nextMorning} />
    </>
  );
}

type NextMorning = ((cell: SweepCell) => boolean) | null;

/** Missed by every limit, and named by the readings of the night. */
function FoundNextMorning({ short }: { short?: boolean }) {
  return (
    <span className="inline-flex items-center gap-1 text-base-content">
      <Sunrise className="size-4 shrink-0" aria-hidden />
      <span className={short ? "sr-only" : undefined}>found next morning</span>
    </span>
  );
}

function InSum({ run, nextMorning }: { run: SweepRun; nextMorning: NextMorning }) {
  const { units } = useWorkspace("units");
  const of = (kind: FaultKind, policy: string): SweepCell[] =>
    run.cells.filter((c) => c.kind === kind && c.policy === policy);
  const lost = (cells: SweepCell[]): number =>
    cells.length > 0 ? cells.reduce((a, c) => a + c.lostL, 0) / cells.length : 0;
  return (
    <Scroller>
      <Table aria-label="In sum">
        <thead>
          <tr>
            <th>Policy</th>
            <th>Fault</th>
            {OUTCOMES.map((o) => (
              <th key={o} className="text-right">
                <Outcome of={o} />
              </th>
            ))}
            {nextMorning && (
              <th className="text-right">
                missed, but <FoundNextMorning />
              </th>
            )}
            <th className="text-right">Lost on average</th>
          </tr>
        </thead>
        <tbody>
          {run.policies.flatMap((p) =>
            run.kinds.map((k) => {
              const cells = of(k, p);
              return (
                <tr key={p + k}>
                  <td>{p}</td>
                  <td>{faultWords(k)}</td>
                  {OUTCOMES.map((o) => {
                    const count = cells.filter((c) => c.outcome === o).length;
                    return (
                      <td key={o} className={classes("text-right", count > 0 ? MARKS[o].className : "text-faint")}>
                        {count}
                      </td>
                    );
                  })}
                  {nextMorning && <td className="text-right">{cells.filter(nextMorning).length}</td>}
                  <td className="text-right">{showQuantity(lost(cells), "volume", units)}</td>
                </tr>
              );
            }),
          )}
        </tbody>
      </Table>
    </Scroller>
  );
}

function Gaps({ run }: { run: SweepRun }) {
  const { units } = useWorkspace("units");
  const gaps = worstGaps(run.cells);
  if (gaps.length === 0) return null;
  return (
    <>
      <h3 className="text-lg mt-4">The {gaps.length} worst gaps</h3>
      <Scroller>
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
                <td className={MARKS[g.outcome].className}>
                  <Outcome of={g.outcome} />
                  {g.seconds !== null ? `, ${Math.round(g.seconds / 60)} min` : ""}
                </td>
                <td className="text-right">{showQuantity(g.lostL, "volume", units)}</td>
                <td className="text-right">{showNumber(g.othersMin)} min</td>
                <td>{gapRemedy(run.site, g)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
    </>
  );
}

const cellsOf = (run: SweepRun): ((subjectId: string, kind: FaultKind, policy: string) => SweepCell | undefined) => {
  const known = new Map(run.cells.map((c) => [`${c.subjectId} ${c.kind} ${c.policy}`, c]));
  return (subjectId, kind, policy) => known.get(`${subjectId} ${kind} ${policy}`);
};

function OnMains({ run }: { run: SweepRun }) {
  const { units } = useWorkspace("units");
  const cell = cellsOf(run);
  const mains = run.cells.filter((c) => c.policy === run.policies[0] && !SWEPT_ON_STATIONS.includes(c.kind));
  if (mains.length === 0) return null;
  return (
    <>
      <h3 className="text-lg mt-4">Mains, supplies and sensors</h3>
      <Scroller>
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
                  const c = cell(subjectId, kind, p);
                  return (
                    <td key={p} className={c && MARKS[c.outcome].className}>
                      {c && (
                        <>
                          <Outcome of={c.outcome} />
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
      </Scroller>
    </>
  );
}

function OnStations({ run, nextMorning }: { run: SweepRun; nextMorning: NextMorning }) {
  const { units } = useWorkspace("units");
  const cell = cellsOf(run);
  const kinds = run.kinds.filter((k) => SWEPT_ON_STATIONS.includes(k));
  const swept = new Set(run.cells.map((c) => c.subjectId));
  const rows = run.site.stations.filter((s) => swept.has(s.id));
  if (rows.length === 0) return null;
  const told = (c: SweepCell): string =>
    `${MARKS[c.outcome].words}; ${showQuantity(c.lostL, "volume", units)} lost${c.seconds !== null ? `, after ${Math.round(c.seconds)} s` : ""}`;
  return (
    <>
      <h3 className="text-lg mt-4">Station by station</h3>
      <Scroller className="max-h-[30rem]">
        <Table aria-label="Station by station">
          <thead>
            <tr>
              <th>Station</th>
              {run.policies.flatMap((p) =>
                kinds.map((k) => (
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
                  kinds.map((k) => {
                    const c = cell(s.id, k, p);
                    return (
                      <td key={p + k} className={classes("text-right", c && MARKS[c.outcome].className)}>
                        {c && (
                          <span title={told(c)} className="inline-flex items-center gap-2">
                            {c.lostL > 0 ? showQuantity(c.lostL, "volume", units) : ""}
                            <Outcome of={c.outcome} short />
                            {nextMorning?.(c) && <FoundNextMorning short />}
                          </span>
                        )}
                      </td>
                    );
                  }),
                )}
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroller>
    </>
  );
}
