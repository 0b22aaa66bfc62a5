"use client";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { Table } from "@/components/kit/table";
import { Checkbox } from "@/components/kit/inputs";
import { useMemo, useState } from "react";
import { useChanges, useNight, useWorkspace } from "@/components/draft/site-draft";
import { median } from "@/core/learn/odd";
import { missingPart, setsOfNight } from "@/core/learn/sets";
import { setKey } from "@/core/judge/set-ratio";
import { showNumber, showQuantity } from "@/core/units/units";
import type { LearningState } from "../../data/use-learning";
import { duration, VERDICT } from "./words";

/** Stations as they run together tonight: how many sets cover the night, which to learn, and how much less they use than their sum. */
export function SetsPanel({
  learning,
  chosen,
  onChoose,
}: {
  learning: LearningState;
  chosen: string[][];
  onChoose: (sets: string[][]) => void;
}) {
  const { draft, units, canEdit, date } = useWorkspace("draft", "units", "canEdit", "date");
  const { date: write } = useConventions();
  const night = useNight();
  const changes = useChanges();
  const [ticked, setTicked] = useState<ReadonlySet<string> | null>(null);
  const sets = useMemo(() => setsOfNight(draft, night?.plan.runs ?? []), [draft, night]);
  const total = sets.reduce((sum, s) => sum + s.seconds, 0);
  const keys = new Set(chosen.map(setKey));
  const known = sets.filter((s) => s.ratio !== null).reduce((sum, s) => sum + s.seconds, 0);
  const toCover = (share: number): number => sets.findIndex((s) => s.covered >= share - 1e-9) + 1;
  const name = (id: string): string => String(draft.stations.find((s) => s.id === id)?.number ?? id);
  // The newest result of each set.
  const results = [
    ...new Map(
      [...learning.view.sets].sort((a, b) => (a.at < b.at ? -1 : 1)).map((s) => [setKey(s.stationIds), s]),
    ).values(),
  ].reverse();
  const ratios = results.filter((s) => s.verdict === "accepted").map((s) => s.ratio);
  const usual = ratios.length >= 3 ? median(ratios) : 1;
  const takeable = results.filter((s) => s.verdict === "accepted" && s.takenAt === undefined);
  const on = takeable.filter((s) => (ticked ? ticked.has(setKey(s.stationIds)) : true));
  const take = async (): Promise<void> => {
    for (const runId of new Set(on.map((s) => s.runId)))
      await learning.takeSets(
        runId,
        on.filter((s) => s.runId === runId).map((s) => s.stationIds),
      );
    setTicked(null);
  };
  return (
    <div className="grid xl:grid-cols-2 gap-x-8 gap-y-4">
      <section aria-label="Sets of the night" className="min-w-0">
        <h3 className="text-lg">Sets of the night of {write(date)}</h3>
        {sets.length === 0 ? (
          <p className="text-faint">No stations with a flow figure run together on this date.</p>
        ) : (
          <>
            <p>
              {sets.length} sets run in {duration(total)}. The first <strong>{toCover(0.5)}</strong> cover half of it,
              the first <strong>{toCover(0.8)}</strong> four fifths; learned so far:{" "}
              <strong>{showNumber((100 * known) / Math.max(1, total))} %</strong>.
            </p>
            <div className="flex flex-wrap gap-2 my-1">
              {[0.5, 0.8, 1].map((share) => (
                <Button
                  key={share}
                  disabled={!canEdit}
                  onClick={() =>
                    onChoose(
                      sets
                        .slice(0, toCover(share))
                        .filter((s) => s.ratio === null)
                        .map((s) => s.stationIds),
                    )
                  }
                >
                  Choose what is needed for {100 * share} %
                </Button>
              ))}
              <Button disabled={!canEdit || chosen.length === 0} onClick={() => onChoose([])}>
                None
              </Button>
            </div>
            <p className="text-sm text-faint mb-1">
              {chosen.length} chosen; they are learned after the stations, with the next run that you start under
              Before.
            </p>
            <Scroller className="max-h-[30rem]">
              <Table>
                <thead>
                  <tr>
                    <th>Learn</th>
                    <th>Stations together</th>
                    <th className="text-right">Sum of parts</th>
                    <th className="text-right">Runs for</th>
                    <th className="text-right">Covers up to here</th>
                    <th className="text-right">Ratio</th>
                  </tr>
                </thead>
                <tbody>
                  {sets.slice(0, 200).map((s) => (
                    <tr key={setKey(s.stationIds)}>
                      <td>
                        <Checkbox
                          aria-label={`Learn the set ${s.stationIds.map(name).join(", ")}`}
                          disabled={!canEdit}
                          checked={keys.has(setKey(s.stationIds))}
                          onChange={(e) =>
                            onChoose(
                              e.target.checked
                                ? [...chosen, s.stationIds]
                                : chosen.filter((c) => setKey(c) !== setKey(s.stationIds)),
                            )
                          }
                        />
                      </td>
                      <td>{s.stationIds.map(name).join(" + ")}</td>
                      <td className="text-right">{showQuantity(s.partsLpm, "flow", units)}</td>
                      <td className="text-right">{duration(s.seconds)}</td>
                      <td className="text-right">{showNumber(100 * s.covered)} %</td>
                      <td className="text-right">{s.ratio === null ? "–" : s.ratio.toFixed(3)}</td>
                    </tr>
                  ))}
                </tbody>
              </Table>
            </Scroller>
            {sets.length > 200 && <p className="text-sm text-faint">and {sets.length - 200} more, each shorter</p>}
          </>
        )}
      </section>
      <section aria-label="Learned sets" className="min-w-0">
        <h3 className="text-lg">Learned together</h3>
        <p className="max-w-prose">
          Stations running together use less than the sum of each alone, since pressure falls. A ratio that is taken is
          used when exactly that set is judged, so that its limits sit around what it really draws.
        </p>
        {results.length === 0 ? (
          <p className="text-faint">No set was learned yet.</p>
        ) : (
          <>
            {canEdit && (
              <Button
                rank="main"
                className="my-1"
                disabled={on.length === 0 || learning.running || changes.length > 0}
                onClick={() => void take()}
              >
                Take {on.length} ratio{on.length === 1 ? "" : "s"}
              </Button>
            )}
            <Scroller>
              <Table>
                <thead>
                  <tr>
                    <th>Take</th>
                    <th>Stations together</th>
                    <th>Verdict</th>
                    <th className="text-right">Together</th>
                    <th className="text-right">Sum of parts</th>
                    <th className="text-right">Ratio</th>
                  </tr>
                </thead>
                <tbody>
                  {results.map((s) => {
                    const missing = s.verdict === "accepted" ? missingPart(draft, s, usual) : null;
                    const key = setKey(s.stationIds);
                    return (
                      <tr key={key}>
                        <td>
                          {s.takenAt && "taken"}
                          {!s.takenAt && s.verdict !== "accepted" && "–"}
                          {!s.takenAt && s.verdict === "accepted" && (
                            <Checkbox
                              aria-label={`Take the ratio of ${s.stationIds.map(name).join(", ")}`}
                              disabled={!canEdit}
                              checked={on.includes(s)}
                              onChange={(e) =>
                                setTicked(() => {
                                  const next = new Set(on.map((x) => setKey(x.stationIds)));
                                  if (e.target.checked) next.add(key);
                                  else next.delete(key);
                                  return next;
                                })
                              }
                            />
                          )}
                        </td>
                        <td>
                          {s.stationIds.map(name).join(" + ")}
                          {missing && (
                            <span className="block text-warning text-sm">
                              <Mark tone="caution" /> as if {name(missing)} did not run: its valve stays shut, or is
                              another station's
                            </span>
                          )}
                        </td>
                        <td className={s.verdict === "accepted" ? "" : "text-error font-semibold"}>
                          {VERDICT[s.verdict]}
                        </td>
                        <td className="text-right font-semibold">{showQuantity(s.meanLpm, "flow", units, 1)}</td>
                        <td className="text-right">{showQuantity(s.partsLpm, "flow", units, 1)}</td>
                        <td className="text-right">{s.ratio.toFixed(3)}</td>
                      </tr>
                    );
                  })}
                </tbody>
              </Table>
            </Scroller>
          </>
        )}
      </section>
    </div>
  );
}
