"use client";
import { useEffect, useState } from "react";
import { request } from "@/components/data/request";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Radio } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import { HOW } from "@/components/words/learning-words";
import type { KeptTrace } from "@/contracts/learning";
import type { Odd } from "@/core/learn/odd";
import { causeWords } from "@/core/learn/odd-words";
import { expectedFlow } from "@/core/site-file/expected-flow";
import { showNumber, showQuantity } from "@/core/units/units";
import { Trace } from "../../charts/learning-trace";
import type { LearningState, Proposal } from "../../data/use-learning";
import type { TracePoint } from "../../data/use-learning-stream";
import { StationPast } from "./station-past";
import { signed, VERDICT } from "./words";

const AGAINST = { design: "its design", alike: "its like on the same main", past: "its last learning" } as const;

/** One result: how it was learned, what is odd about it and why, its trace, and which figure the station uses. */
export function OneResult({
  row,
  odd,
  learning,
  onLearnAgain,
  onUse,
}: {
  row: Proposal;
  odd: Odd | null;
  learning: LearningState;
  onLearnAgain: (id: string) => void;
  onUse: (from: "learned" | "entered" | "design") => void;
}) {
  const { draft, units, canEdit } = useWorkspace("draft", "units", "canEdit");
  const { dateAt } = useConventions();
  const changes = useChanges();
  const [trace, setTrace] = useState<KeptTrace | null>(null);
  useEffect(() => {
    let gone = false;
    if (row.traced)
      request<KeptTrace>(
        "GET",
        `${learning.base}/${row.runId}/readings?station=${encodeURIComponent(row.elementId)}`,
      ).then(
        (t) => {
          if (!gone) setTrace(t);
        },
        () => {},
      );
    return () => {
      gone = true;
    };
  }, [row.runId, row.elementId, row.traced, learning.base]);
  const s = draft.stations.find((x) => x.id === row.elementId);
  if (!s) return null;
  const now = expectedFlow(s);
  const name = (id: string): string => {
    const x = draft.stations.find((y) => y.id === id);
    return x ? `${x.number} ${x.name}` : id;
  };
  const figures = (
    [
      ["learned", s.learned?.meanLpm],
      ["entered", s.enteredFlowLpm],
      ["design", s.designFlowLpm],
    ] as const
  ).filter(([, v]) => v !== undefined);
  return (
    <>
      <h3 className="text-lg">
        {s.number} {s.name}
      </h3>
      <p>
        {VERDICT[row.verdict]}, {HOW[row.how]}, {dateAt(row.learnedAt)}
        {row.companionIds.length > 0
          ? `; beside ${row.companionIds.map(name).join(", ")}, whose own flow was read first and taken off`
          : ""}
        .
      </p>
      {odd && (
        <div className="border-l-4 border-warning pl-3 my-2">
          <p className="font-semibold">
            <Mark tone="caution" /> {signed(odd.ratio - 1)} against {odd.against.map((a) => AGAINST[a]).join(" and ")}
            {odd.z !== null ? `; ${showNumber(Math.abs(odd.z), 1)} spreads from its like` : ""}.
          </p>
          <p className="text-sm text-faint">Likely causes, likeliest first, and what tells them apart:</p>
          <ol className="list-decimal pl-5 text-sm">
            {odd.causes.slice(0, 5).map((c) => {
              const words = causeWords(draft, c);
              return (
                <li key={c.code + (c.otherId ?? "")}>
                  <strong>{words.cause}.</strong> {words.check}
                </li>
              );
            })}
          </ol>
        </div>
      )}
      {trace && (
        <Trace
          points={pointsOf(trace)}
          expectedLpm={null}
          units={units}
          narrow
          result={{ meanLpm: row.meanLpm, sdLpm: row.sdLpm, secondsToSteady: row.secondsToSteady }}
        />
      )}
      <div className="flex flex-wrap items-end gap-2 mt-2">
        {canEdit && (
          <Button onClick={() => onLearnAgain(s.id)} disabled={learning.running || changes.length > 0}>
            Learn it again
          </Button>
        )}
        {canEdit && row.takenAt !== null && row.before !== null && (
          <Button onClick={() => void learning.undo([row])} disabled={learning.running || changes.length > 0}>
            Undo taking it
          </Button>
        )}
        {canEdit && row.takenAt === null && row.verdict === "accepted" && (
          <Button onClick={() => void learning.take([row])} disabled={learning.running || changes.length > 0}>
            Take only this
          </Button>
        )}
        {row.traced && (
          <a href={`${learning.base}/${row.runId}/readings`} download>
            Readings of the run, CSV
          </a>
        )}
      </div>
      {figures.length > 0 && (
        <fieldset className="mt-3" disabled={!canEdit}>
          <legend className="font-semibold">
            It uses
            {s.expectedSince ? <span className="text-faint font-normal"> since {dateAt(s.expectedSince)}</span> : ""}
          </legend>
          {figures.map(([from, lpm]) => (
            <label key={from} className="inline-flex items-center gap-2 mr-4">
              <Radio name={`use-${s.id}`} checked={now?.from === from} onChange={() => onUse(from)} />
              {from === "entered" ? "by hand" : from} {showQuantity(lpm as number, "flow", units, 1)}
            </label>
          ))}
        </fieldset>
      )}
      <StationPast
        station={s}
        proposed={row.takenAt === null ? { meanLpm: row.meanLpm, at: row.learnedAt } : null}
        base={learning.base}
      />
    </>
  );
}

function pointsOf(trace: KeptTrace): TracePoint[] {
  return trace.lpm.map((lpm, i) => ({
    at: trace.at + i,
    lpm,
    settling: !trace.read.some(([from, to]) => i >= from && i <= to),
  }));
}
