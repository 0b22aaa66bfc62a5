"use client";
import { stationName } from "@/core/site-file/station-name";
import { Scroller } from "@/components/kit/scroller";
import { useConventions } from "@/components/kit/conventions";
import { ThumbsUp } from "lucide-react";
import { useEffect } from "react";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { Progress } from "@/components/kit/progress";
import { Table } from "@/components/kit/table";
import { clean } from "@/core/site-file/patch";
import { useTaughtSets } from "@/components/data/use-taught-sets";
import { computeJudgement } from "@/components/draft/compute";
import { useJob } from "@/components/draft/use-job";
import { useWorkspace } from "@/components/draft/site-draft";
import { type AdviceReason, FALSE_TRIPS_BORNE } from "@/core/limits/advice";
import type { FalseTrips } from "@/core/limits/judgement";
import { policyFrom, SCHOOLS } from "@/core/limits/schools";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity, type UnitSystem } from "@/core/units/units";
import { TaughtLine } from "./taught-line";
import type { JudgementAnswer } from "@/workers/compute.worker";

/** The five starting points and what stands now, in figures, on one night; what Presa would take and why; what would make unseen breaks seen. */
export function JudgementPanel() {
  const { draft, date, units, canEdit, edit } = useWorkspace("draft", "date", "units", "canEdit", "edit");
  const { date: write } = useConventions();
  const sets = useTaughtSets();
  const {
    value: found,
    share,
    problem,
    start,
    cancel,
  } = useJob<{ site: SiteFile; date: string; answer: JudgementAnswer }>();
  const work = (): void =>
    void start((onProgress) => {
      const job = computeJudgement(draft, date, sets, onProgress);
      return { promise: job.promise.then((answer) => ({ site: draft, date, answer })), cancel: job.cancel };
    });
  // It was come here for; what it takes is a second or two, and can be given up.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, and when what nights say arrives; after a change it is worked out again when asked for
  useEffect(work, [sets]);
  const name = (id: string): string => stationName(draft, id);
  const take = (id: string): void => {
    const school = SCHOOLS.find((s) => s.id === id);
    if (school) edit((f) => ({ ...f, policy: clean(policyFrom(f, school)) }));
  };
  const stale = found !== null && (found.site !== draft || found.date !== date);
  const answer = found?.answer;
  const advised = SCHOOLS.find((s) => s.id === answer?.advice?.id);
  return (
    <section aria-label="Starting points compared" className="pt-1">
      <div className="flex flex-wrap items-center gap-3 mb-1">
        <h3 className="text-lg">Starting points compared, on the night of {write(date)}</h3>
        {share === null ? (
          <Button onClick={() => void work()}>
            {!found && "Work it out"}
            {found && (stale ? "Work it out again" : "Again")}
          </Button>
        ) : (
          <>
            <Progress className="w-40" value={share} max={1} aria-label="Judging" />
            <Button onClick={cancel}>Cancel</Button>
          </>
        )}
        {stale && share === null && (
          <span className="text-warning">
            <Mark tone="caution" /> worked out before the last change
          </span>
        )}
      </div>
      <p>
        <TaughtLine />
      </p>
      {problem && (
        <p role="alert" className="text-error font-semibold">
          {problem}
        </p>
      )}
      {!found && share === null && (
        <p className="max-w-prose">
          What each policy sees in every set that runs, how often it would trip for nothing in a season, how much of the
          night it watches, and what a broken lateral costs under it. From {60} simulated nights without a fault.
        </p>
      )}
      {answer && (
        <>
          <Scroller>
            <Table>
              <thead>
                <tr>
                  <th>Policy</th>
                  <th className="text-right">High, low, persistence</th>
                  <th className="text-right">Lateral unseen: always, in some sets</th>
                  <th className="text-right">One outlet always unseen</th>
                  <th className="text-right">Valve that never opens unseen</th>
                  <th className="text-right">Trips for nothing in a season</th>
                  <th className="text-right">Run time watched</th>
                  <th className="text-right">A broken lateral costs: mean, worst</th>
                  <th>
                    <span className="sr-only">Take</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {answer.rows.map((r) => (
                  <tr key={r.name} aria-selected={r.id !== null && r.id === answer.advice?.id}>
                    <td className={r.id === null ? "" : "font-semibold"}>
                      {r.name}
                      {r.id !== null && r.id === answer.advice?.id && (
                        <ThumbsUp className="ml-1 inline size-4 align-[-0.15em]" aria-label="Presa would take it" />
                      )}
                    </td>
                    <td className="text-right">
                      {r.policy.basis === "graded" ? "graded" : `+${r.policy.highPercent}, −${r.policy.lowPercent} %`},{" "}
                      {r.policy.persistenceS} s{r.policy.highResponse === "notify" ? ", tells only" : ""}
                    </td>
                    <td className="text-right">
                      {r.figures.lateralNever.length} + {r.figures.lateralSometimes.length} of {r.figures.stations}
                    </td>
                    <td className="text-right">{r.figures.outletNever.length}</td>
                    <td className="text-right">{r.figures.neverOpensUnseen.length}</td>
                    <td
                      className={`text-right ${r.figures.falseTrips.perSeason > FALSE_TRIPS_BORNE ? "text-error font-semibold" : ""}`}
                    >
                      {tripWords(r.figures.falseTrips)}
                    </td>
                    <td
                      className={`text-right ${r.figures.watched !== null && r.figures.watched < 0.7 ? "text-warning font-semibold" : ""}`}
                    >
                      {r.figures.watched === null ? "–" : `${showNumber(100 * r.figures.watched)} %`}
                    </td>
                    <td className="text-right">
                      {r.figures.lateralL
                        ? `${showQuantity(r.figures.lateralL.mean, "volume", units)}, ${showQuantity(r.figures.lateralL.worst, "volume", units)} at ${draft.stations.find((s) => s.id === r.figures.lateralL?.worstId)?.number ?? ""}`
                        : "–"}
                    </td>
                    <td>
                      {r.id !== null && canEdit && (
                        <Button
                          rank="quiet"
                          aria-label={`Take ${r.name}`}
                          onClick={() => take(r.id as string)}
                          disabled={draft.policy.preset === r.id}
                        >
                          {draft.policy.preset === r.id ? "in use" : "Take"}
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </Scroller>
          <p className="text-sm text-faint">
            Season of {answer.rows[0]?.figures.falseTrips.seasonNights} nights; in brackets the 95 % interval from{" "}
            {answer.rows[0]?.figures.falseTrips.nights} simulated ones. “Always unseen” is in every set it runs in
            tonight.
          </p>
          {answer.advice && advised && (
            <div className="border-l-4 pl-3 py-1 my-2" style={{ borderColor: "var(--water)" }}>
              <p className="text-lg">
                Presa would take <strong>{advised.name}</strong>
                {canEdit && draft.policy.preset !== advised.id && (
                  <Button rank="main" className="ml-3" onClick={() => take(advised.id)}>
                    Take {advised.name}
                  </Button>
                )}
              </p>
              <ul className="list-disc pl-5">
                {answer.advice.reasons.map((r) => (
                  <li key={r.code + ("name" in r ? r.name : "")}>{reasonWords(r, units)}</li>
                ))}
              </ul>
            </div>
          )}
          {answer.remedies.length > 0 && (
            <details open>
              <summary className="cursor-pointer font-semibold">
                Broken laterals that pass unseen, the largest first, and what would change that
              </summary>
              <Scroller>
                <Table>
                  <thead>
                    <tr>
                      <th>Station</th>
                      <th>Nearest to being seen with</th>
                      <th>Tighter limit there</th>
                      <th>That set learned</th>
                      <th>Fewer at once</th>
                    </tr>
                  </thead>
                  <tbody>
                    {answer.remedies.map((r) => (
                      <tr key={r.stationId}>
                        <td>{name(r.stationId)}</td>
                        <td>
                          {r.withIds
                            .filter((id) => id !== r.stationId)
                            .map((id) => draft.stations.find((s) => s.id === id)?.number)
                            .join(", ") || "alone"}
                        </td>
                        <td>
                          {r.highPercent === null ? (
                            <span className="text-faint">would trip for nothing</span>
                          ) : (
                            `+${r.highPercent} % sees it`
                          )}
                        </td>
                        <td>
                          {r.setLearned ? (
                            "sees it"
                          ) : (
                            <span className="text-faint">{r.withIds.length > 1 ? "not enough" : "–"}</span>
                          )}
                        </td>
                        <td>
                          {r.fewerAtOnce ? (
                            `${r.fewerAtOnce.atOnce} at once sees it; the night ends ${r.fewerAtOnce.laterMin > 0 ? `${showNumber(r.fewerAtOnce.laterMin)} min later` : "no later"}`
                          ) : (
                            <span className="text-faint">not enough by itself</span>
                          )}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </Table>
              </Scroller>
            </details>
          )}
        </>
      )}
    </section>
  );
}

const tripWords = (t: FalseTrips): string =>
  `${showNumber(t.perSeason, t.perSeason < 10 ? 1 : 0)} (${showNumber(t.low, t.low < 10 ? 1 : 0)} to ${showNumber(t.high, t.high < 10 ? 1 : 0)})`;

function reasonWords(r: AdviceReason, units: UnitSystem): string {
  switch (r.code) {
    case "notLearned":
      return `Only ${r.learned} of ${r.stations} stations are learned: limits on design flows would shut off what is right. Let it tell for two weeks, learn, then choose again.`;
    case "cheapest":
      return `Of those that trip for nothing no more than twice a season, a broken lateral costs least under it: ${showQuantity(r.litres, "volume", units)} on average.`;
    case "quietest":
      return `All of them trip for nothing more than twice a season here; this one least, ${showNumber(r.falseTrips, 1)} times. Learn the sets that run together before tightening anything.`;
    case "falseTrips":
      return `${r.name} would trip for nothing ${showNumber(r.perSeason)} times a season here.`;
    case "unwatched":
      return `Even so only ${showNumber(100 * r.watched)} % of run time is watched: valves change too often for its hold-off and persistence. Fewer, longer sets help more than any limit.`;
    case "unseen":
      return `At ${r.stations} of ${r.of} stations a broken lateral still passes unseen in every set, because too much runs beside it.`;
    case "learnSets":
      return `Learning the sets as they run would make ${r.more} more of them seen: together they draw less than their sum, and the limit stands on the sum.`;
  }
}
