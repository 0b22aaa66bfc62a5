"use client";
import { useMemo, useState } from "react";
import { TradeChart, type TradePoint } from "@/components/charts/trade-chart";
import { useProfiles } from "@/components/data/use-profiles";
import { useTaughtSets } from "@/components/data/use-taught-sets";
import { computeLimits } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import { useJob } from "@/components/draft/use-job";
import { Button } from "@/components/kit/button";
import { significant, useConventions } from "@/components/kit/conventions";
import { NumberField, TickField } from "@/components/kit/fields";
import { Radio } from "@/components/kit/inputs";
import { Caution, Mark, Problem } from "@/components/kit/notice";
import { Progress } from "@/components/kit/progress";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { type BudgetPoint, FOUND, type LimitsByBudget, SELDOM } from "@/core/limits/budget/budget";
import { type BudgetAssumptions, USUAL_ASSUMPTIONS } from "@/core/limits/budget/ground";
import { withLimitsOf } from "@/core/limits/budget/take";
import type { SiteFile } from "@/core/site-file/schema";
import { toShown } from "@/core/units/units";
import { TaughtLine } from "./taught-line";
import { BudgetSettings } from "./budget-settings";

const SECONDS = 60;
const MOST_TRIPS = 30;

type Rates = Pick<BudgetAssumptions, "lateralsPer100" | "outletsPer100">;
/** Kept with the answer, so that a figure changed since is no figure of it. */
type Answer = { site: SiteFile; date: string; rates: Rates; found: LimitsByBudget };

/** The limits that lose the least water for so many trips for nothing: the curve, what is compared with it, and one of it taken into the draft. */
export function BudgetPanel() {
  const { draft, date, canEdit, edit } = useWorkspace("draft", "date", "canEdit", "edit");
  const { date: write } = useConventions();
  const { all: profiles } = useProfiles();
  const sets = useTaughtSets();
  const [trips, setTrips] = useState(1);
  const [assumed, setAssumed] = useState(USUAL_ASSUMPTIONS);
  const [chosen, setChosen] = useState<string | null>(null);
  const { value: answer, share, problem, start, cancel } = useJob<Answer>();
  const work = (): void =>
    void start((onProgress) => {
      const job = computeLimits(draft, date, { trips, profiles, assumed, sets, seconds: SECONDS }, onProgress);
      return {
        promise: job.promise.then((found) => ({ site: draft, date, rates: assumed, found })),
        cancel: job.cancel,
      };
    }).then((came) => setChosen(came?.found.best ? BEST : null));
  const stale = answer !== null && (answer.site !== draft || answer.date !== date);
  const points = useMemo(() => (answer ? choices(answer.found) : []), [answer]);
  const point = points.find((p) => p.id === chosen)?.point ?? null;
  const learned = draft.stations.filter((s) => s.learned).length;
  const counts = assumed.lateralsPer100 > 0 || assumed.outletsPer100 > 0;
  const change = (values: Partial<BudgetAssumptions>): void => setAssumed({ ...assumed, ...values });
  return (
    <section aria-label="Limits by budget" className="pt-1">
      <div className="mb-2 flex flex-wrap items-end gap-x-4 gap-y-2">
        <NumberField
          label="Trips for nothing in a season, at most"
          className="w-56"
          value={trips}
          min={0.01}
          max={MOST_TRIPS}
          required
          onCommit={(v) => v !== undefined && setTrips(v)}
        />
        <Counted
          label="broken laterals"
          rate={assumed.lateralsPer100}
          onCommit={(v) => change({ lateralsPer100: v })}
        />
        <Counted label="broken outlets" rate={assumed.outletsPer100} onCommit={(v) => change({ outletsPer100: v })} />
        {share === null ? (
          <Button {...(answer ? {} : { rank: "main" })} disabled={!counts} onClick={work}>
            {answer ? "Work it out again" : "Work it out"}
          </Button>
        ) : (
          <>
            <Progress className="w-40" value={share} max={1} aria-label="Searching" />
            <Button onClick={cancel}>Cancel</Button>
          </>
        )}
        {stale && share === null && (
          <span className="text-warning">
            <Mark tone="caution" /> worked out before the last change
          </span>
        )}
      </div>
      <Assumptions assumed={assumed} onChange={change} />
      <p>
        <TaughtLine />
      </p>
      {!counts && <Problem>Nothing counts: say of laterals or outlets how many break.</Problem>}
      {problem && <Problem>{problem}</Problem>}
      {learned < draft.stations.length && (
        <Caution>
          {learned} of {draft.stations.length} stations are learned. The others are taken to be within 3 % of their
          figures; learn them first, or limits as tight as these trip for nothing.
          {learned < draft.stations.length / 2 &&
            " Until half of them are, let limits tell only: what shuts off on a design flow shuts off what is right."}
        </Caution>
      )}
      {!answer && share === null && (
        <p className="max-w-prose">
          Presa turns high and low limits, persistence and hold-off, of the site, its mains and its stations, on the
          night of {write(date)}, until the least water is lost in a year. A minute at most; what is found by then
          stands.
        </p>
      )}
      {answer && answer.found.curve.length === 0 && <p>Nothing runs on the night of {write(answer.date)}.</p>}
      {answer && answer.found.curve.length > 0 && (
        <>
          <BudgetCurve answer={answer} points={points} chosen={chosen} onChoose={setChosen} />
          {answer.found.best === null && (
            <Problem>Nothing that was tried trips so seldom. Put up with more trips, or learn the stations.</Problem>
          )}
          {point && (
            <BudgetSettings before={answer.site} point={point}>
              {canEdit && (
                <Button
                  rank="main"
                  disabled={stale || share !== null}
                  onClick={() => edit((f) => withLimitsOf(f, point.site))}
                >
                  Take these limits into the draft
                </Button>
              )}
            </BudgetSettings>
          )}
          <BudgetTable answer={answer} points={points} chosen={chosen} onChoose={setChosen} />
        </>
      )}
    </section>
  );
}

const BEST = "best";
type Choice = { id: string; point: BudgetPoint };

/** The curve, the one within the budget known by name. */
const choices = ({ curve, best }: LimitsByBudget): Choice[] =>
  curve.map((point, i) => ({
    id: point.figures.tripsPerSeason === best?.figures.tripsPerSeason ? BEST : `p${i}`,
    point,
  }));

/** Whether breaks of a kind count, and how many a season there are. */
function Counted({ label, rate, onCommit }: { label: string; rate: number; onCommit: (rate: number) => void }) {
  const [usual] = useState(rate);
  return (
    <div className="flex items-end gap-2">
      <TickField label={label} checked={rate > 0} onCommit={(on) => onCommit(on ? usual : 0)} />
      <NumberField
        label={`a season, of 100 stations: ${label}`}
        hideLabel
        className="w-16"
        value={rate}
        min={0}
        max={100}
        required
        disabled={rate === 0}
        onCommit={(v) => v !== undefined && onCommit(v)}
      />
      <span className="pb-1 text-faint">a season in 100 stations</span>
    </div>
  );
}

function Assumptions({
  assumed,
  onChange,
}: {
  assumed: BudgetAssumptions;
  onChange: (values: Partial<BudgetAssumptions>) => void;
}) {
  return (
    <details className="mb-2">
      <summary className="cursor-pointer">What else is assumed</summary>
      <div className="my-2 grid max-w-3xl grid-cols-1 gap-3 sm:grid-cols-2">
        <NumberField
          label="Somebody walks past an unseen break after"
          unit="days"
          value={assumed.foundAfterDays}
          min={1}
          max={182}
          required
          onCommit={(v) => v !== undefined && onChange({ foundAfterDays: v })}
        />
        <NumberField
          label="Supply from night to night, of the flow, ±"
          unit="%"
          value={100 * assumed.nightSd}
          min={0.1}
          max={10}
          required
          onCommit={(v) => v !== undefined && onChange({ nightSd: v / 100 })}
        />
        <NumberField
          label="Valves and pressure have settled after"
          unit="s"
          hint="No hold-off is made shorter than this."
          value={assumed.settledS}
          min={10}
          max={600}
          whole
          required
          onCommit={(v) => v !== undefined && onChange({ settledS: v })}
        />
        <NumberField
          label="What passes by itself lasts at most"
          unit="s"
          hint="No persistence is made shorter than this."
          value={assumed.leastPersistenceS}
          min={1}
          max={600}
          whole
          required
          onCommit={(v) => v !== undefined && onChange({ leastPersistenceS: v })}
        />
      </div>
    </details>
  );
}

type Shown = { answer: Answer; points: Choice[]; chosen: string | null; onChoose: (id: string) => void };

function BudgetCurve({ answer, points, chosen, onChoose }: Shown) {
  const { quantity, unit, system } = useConventions();
  const drawn = useMemo(() => {
    const at = (id: string, p: BudgetPoint, name?: string): TradePoint => ({
      id,
      ...(name === undefined ? {} : { name }),
      x: Math.max(SELDOM, Math.min(MOST_TRIPS, p.figures.tripsPerSeason)),
      y: toShown(p.figures.litresAYear, "volume", system),
      words: `${name ? `${name}: ` : ""}${tripWords(p)} a season, ${quantity(p.figures.litresAYear, "volume")} a year, ${seenWords(p)} seen`,
    });
    const { now, schools } = answer.found;
    return {
      curve: points.map(({ id, point }) => at(id, point)),
      marks: [at("now", now, now.name), ...schools.map((s) => at(s.id ?? s.name, s, s.name))],
      x: { title: "trips for nothing in a season", logarithmic: true, min: SELDOM, max: MOST_TRIPS, write: tripTick },
      y: { title: `lost in a year, ${unit("volume")}`, logarithmic: true, write: roundTick },
      also: {
        axis: { title: "share of breaks seen", min: 0, max: 1, write: (v: number) => `${Math.round(100 * v)} %` },
        points: points.map(({ point }) => ({ x: at("", point).x, y: seenShare(point, answer.rates) })),
      },
    };
  }, [answer, points, quantity, unit, system]);
  return (
    <figure className="mb-3 max-w-7xl">
      <TradeChart
        label={`Water lost in a year by trips for nothing in a season: ${points.length} choices, the starting points and the limits as they stand`}
        {...drawn}
        chosen={chosen}
        onChoose={onChoose}
      />
      <figcaption className="text-sm text-faint">
        Line: water lost with what can be chosen; press a point. Diamonds: the starting points and the limits as they
        stand, on the same nights. Dashed: the share of breaks seen with what can be chosen. At the left edge: once in a
        hundred seasons or less.
      </figcaption>
    </figure>
  );
}

function BudgetTable({ answer, points, chosen, onChoose }: Shown) {
  const { figure, unit } = useConventions();
  const { now, schools } = answer.found;
  const cells = (p: BudgetPoint) => (
    <>
      <td className="text-right">{tripWords(p)}</td>
      <td className="text-right whitespace-nowrap">
        {tripFigure(p.figures.low)} to {tripFigure(p.figures.high)}
      </td>
      <td className="text-right">{figure(p.figures.litresAYear, "volume")}</td>
      <td className="text-right">{p.figures.lateralsSeen}</td>
      <td className="text-right">{p.figures.outletsSeen}</td>
      <td className="text-right">{p.figures.neverOpensSeen}</td>
      <td className="text-right">{p.figures.watched === null ? "–" : `${Math.round(100 * p.figures.watched)} %`}</td>
    </>
  );
  return (
    <Scroller>
      <Table className="max-w-7xl">
        <caption className="text-left text-sm text-faint">
          Seen: in at least one set, on most nights, of {now.figures.stations} stations that run.
        </caption>
        <thead>
          <tr>
            <th>Limits</th>
            <th className="text-right">Trips for nothing in a season</th>
            <th className="text-right">95 % interval</th>
            <th className="text-right">Lost in a year, {unit("volume")}</th>
            <th className="text-right">Laterals seen</th>
            <th className="text-right">Outlets seen</th>
            <th className="text-right">Valves that never open seen</th>
            <th className="text-right">Run time watched</th>
          </tr>
        </thead>
        <tbody>
          {points.map(({ id, point }) => (
            <tr key={id} aria-selected={id === chosen}>
              <td>
                <label className="inline-flex cursor-pointer items-center gap-2 whitespace-nowrap">
                  <Radio name="limits" checked={id === chosen} onChange={() => onChoose(id)} />
                  {id === BEST ? <strong>{nameOf(point)}, least water within the budget</strong> : nameOf(point)}
                </label>
              </td>
              {cells(point)}
            </tr>
          ))}
          {[now, ...schools]
            .filter((p) => !points.some((x) => x.point.name === p.name))
            .map((p) => (
              <tr key={p.id ?? p.name}>
                <td className="text-faint">{p.name}</td>
                {cells(p)}
              </tr>
            ))}
        </tbody>
      </Table>
    </Scroller>
  );
}

const nameOf = (p: BudgetPoint): string => (p.name === FOUND ? `with ${tripWords(p)} trips` : p.name);
const tripFigure = (trips: number): string => (trips < SELDOM ? "0" : significant(trips));
const tripWords = (p: BudgetPoint): string =>
  p.figures.tripsPerSeason < SELDOM ? `< ${SELDOM}` : significant(p.figures.tripsPerSeason);
const tripTick = (value: number): string => ([0.01, 0.1, 1, 10].includes(value) ? String(value) : "");

/** Ones, twos and fives of each power of ten. */
const roundTick = (value: number): string => (/^[125]/.test(value.toExponential()) ? significant(value) : "");

/** Of all breaks that are to be expected, the share that is seen on most nights. */
function seenShare({ figures }: BudgetPoint, { lateralsPer100, outletsPer100 }: Rates): number {
  const seen = lateralsPer100 * figures.lateralsSeen + outletsPer100 * figures.outletsSeen;
  return seen / Math.max(1e-9, (lateralsPer100 + outletsPer100) * figures.stations);
}

const seenWords = ({ figures }: BudgetPoint): string =>
  `${figures.lateralsSeen} laterals and ${figures.outletsSeen} outlets of ${figures.stations}`;
