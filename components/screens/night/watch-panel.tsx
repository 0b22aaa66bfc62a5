"use client";
import { useMemo, useState } from "react";
import { TradeChart, type TradePoint } from "@/components/charts/trade-chart";
import { useProfiles } from "@/components/data/use-profiles";
import { computeWatchable } from "@/components/draft/compute";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { useJob } from "@/components/draft/use-job";
import { useNightOf } from "@/components/draft/use-night-of";
import { Button } from "@/components/kit/button";
import { TickField } from "@/components/kit/fields";
import { Radio } from "@/components/kit/inputs";
import { Mark, Problem } from "@/components/kit/notice";
import { Scroller } from "@/components/kit/scroller";
import { Segments } from "@/components/kit/segments";
import { Table } from "@/components/kit/table";
import { withLimitsOf } from "@/core/limits/budget/take";
import { applyChanges, settingChanges } from "@/core/optimize/settings-changes";
import type { WatchableNights } from "@/core/optimize/watchable";
import type { WatchedNight } from "@/core/optimize/watched-night";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber } from "@/core/units/units";
import { SecondsField } from "./seconds-field";
import { settingWords } from "./setting-words";
import { SideBySide } from "./side-by-side";

const SECONDS = [15, 45, 120];
const SEEN_IN = [
  { id: "one", label: "in one set at least" },
  { id: "every", label: "in every set" },
] as const;
type SeenIn = (typeof SEEN_IN)[number]["id"];

/** Nights that can be watched better: minutes of night against broken laterals that are seen, one of them beside the night as it is, and its settings taken. */
export function WatchPanel() {
  const { draft, date, canEdit, edit } = useWorkspace("draft", "date", "canEdit", "edit");
  const night = useNight();
  const [seenIn, setSeenIn] = useState<SeenIn>("one");
  const [seconds, setSeconds] = useState(45);
  const [limitsToo, setLimitsToo] = useState(true);
  const { all: profiles } = useProfiles();
  const [found, setFound] = useState<{ site: SiteFile; every: boolean; nights: WatchableNights } | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const { share, problem, start, cancel } = useJob<WatchableNights>();
  const searching = share !== null;
  const search = (): void => {
    const every = seenIn === "every";
    const keep = (nights: WatchableNights): void => setFound({ site: draft, every, nights });
    setFound(null);
    setChosen(null);
    void start(() =>
      computeWatchable(
        draft,
        date,
        { seconds, every, ...(limitsToo ? { budget: { trips: TRIPS, profiles } } : {}) },
        keep,
      ),
    ).then((nights) => nights && keep(nights));
  };
  const stale = found !== null && found.site !== draft && !searching;
  const pick = found?.nights.frontier.find((n) => idOf(n) === chosen) ?? null;
  const picked = useMemo(() => (found && pick ? { ...found.site, programs: pick.programs } : null), [found, pick]);
  const changes = useMemo(() => (found && picked ? settingChanges(found.site, picked) : []), [found, picked]);
  const after = useNightOf(searching ? null : picked, date);
  const take = (): void => {
    if (picked && pick)
      edit((f) => {
        const next = applyChanges(f, picked, new Set(changes.map((c) => c.id)));
        return pick.limits ? withLimitsOf(next, pick.limits) : next;
      });
    setFound(null);
    setChosen(null);
  };
  return (
    <section aria-label="A night that can be watched" className="mb-3 border-y-2 border-base-content py-2">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <span className="text-faint">a broken lateral is to be seen</span>
        <Segments label="Seen" options={SEEN_IN} at={seenIn} onChange={setSeenIn} />
        <TickField
          label="limits too, by budget, where they do not show everything"
          checked={limitsToo}
          disabled={searching}
          onCommit={setLimitsToo}
        />
        <SecondsField value={seconds} options={SECONDS} disabled={searching} onCommit={setSeconds} />
        {searching ? (
          <Button onClick={cancel}>Stop, keep what is found</Button>
        ) : (
          <Button
            {...(pick ? {} : { rank: "main" })}
            onClick={search}
            disabled={!night || night.plan.runs.length === 0}
          >
            Search
          </Button>
        )}
        {stale && (
          <span className="text-warning">
            <Mark tone="caution" /> the site has changed since; search again
          </span>
        )}
      </div>
      {problem && <Problem>{problem}</Problem>}
      {!found && !searching && (
        <p className="max-w-prose">
          Where much runs at once, a broken lateral is lost in the sum. Presa changes order, priority and number at
          once, never days or minutes, and shows what every minute more of night is worth with the limits as they stand.
          Limits by budget come after: they are set for the sets that run.
        </p>
      )}
      {searching && (
        <p role="status">
          Searching:{" "}
          {found ? `${showNumber(found.nights.tries)} nights tried, ${found.nights.frontier.length} stand` : "…"}
        </p>
      )}
      {found && (
        <>
          <Frontier found={found} chosen={chosen} onChoose={setChosen} />
          <p className="mb-2">{verdict(found)}</p>
          <FrontierTable found={found} chosen={chosen} onChoose={setChosen} />
        </>
      )}
      {found && pick && picked && !searching && !stale && (
        <>
          <h4 className="mt-2 text-lg">
            {minutes(pick)} min, {pick.lateralsSeen} of {pick.stations} seen: the settings
          </h4>
          {changes.length === 0 && !pick.limits ? (
            <p>They are what stands.</p>
          ) : (
            <ul className="list-disc pl-5">
              {changes.map((c) => (
                <li key={c.id}>{settingWords(draft, c)}</li>
              ))}
              {pick.limits && <li>{limitWords(found.site, pick.limits)}</li>}
            </ul>
          )}
          {canEdit && (changes.length > 0 || pick.limits) && (
            <Button rank="main" className="my-2" onClick={take}>
              Take these settings into the draft
            </Button>
          )}
          {night && after && (
            <SideBySide
              before={{ site: found.site, night }}
              after={{ site: picked, night: after, name: "Watchable" }}
              date={date}
            />
          )}
        </>
      )}
    </section>
  );
}

type Found = { site: SiteFile; every: boolean; nights: WatchableNights };
type Shown = { found: Found; chosen: string | null; onChoose: (id: string) => void };

/** What a season may trip for nothing under limits that come with a night; other budgets are searched on Limits. */
const TRIPS = 1;

/** Limits that come with a night, in a line. */
function limitWords(
  site: SiteFile,
  { policy, stations, mainlines, tripsPerSeason }: NonNullable<WatchedNight["limits"]>,
) {
  const own = stations.filter((s) => s.highPercent !== undefined || s.lowPercent !== undefined).length;
  const waits = mainlines.filter((m) => m.holdOffS !== site.mainlines.find((x) => x.id === m.id)?.holdOffS).length;
  const band = policy.basis === "graded" ? "graded" : `+${policy.highPercent}, −${policy.lowPercent} %`;
  return `Limits: ${band}, ${policy.persistenceS} s; ${own} stations with their own${waits > 0 ? `, another hold-off on ${waits} mains` : ""}; ${showNumber(tripsPerSeason, 2)} trips for nothing a season`;
}

const idOf = (n: WatchedNight): string => `${n.makespanS} ${n.lateralsSeen} ${n.lateralsSeenInEvery} ${n.watched}`;
const minutes = (n: WatchedNight): string => showNumber(n.makespanS / 60);
const percentOf = (watched: number | null): string => (watched === null ? "–" : `${showNumber(100 * watched)} %`);
const seenOf = (n: WatchedNight, every: boolean): number => (every ? n.lateralsSeenInEvery : n.lateralsSeen);

/** What the best seen costs. */
function verdict({ every, nights: { now, frontier } }: Found): string {
  const most = frontier.reduce((a, b) => (seenOf(b, every) > seenOf(a, every) ? b : a), now);
  const where = every ? "in every set" : "in one set at least";
  const more = Math.round((most.makespanS - now.makespanS) / 60);
  let cost = "at no cost in minutes";
  if (more > 0) cost = `for ${showNumber(more)} min more of night`;
  if (more < 0) cost = `in a night ${showNumber(-more)} min shorter`;
  const all = seenOf(most, every) === most.stations ? "All" : `${seenOf(most, every)} of ${most.stations}`;
  return `${all} broken laterals seen ${where} ${cost}; as it is ${seenOf(now, every)}.`;
}

function Frontier({ found, chosen, onChoose }: Shown) {
  const drawn = useMemo(() => {
    const { every, nights } = found;
    const at = (n: WatchedNight, name?: string): TradePoint => ({
      id: idOf(n),
      ...(name === undefined ? {} : { name }),
      x: n.makespanS / 60,
      y: seenOf(n, every),
      words: `${minutes(n)} min, ${seenOf(n, every)} of ${n.stations} seen, ${percentOf(n.watched)} of run time watched`,
    });
    return {
      curve: nights.frontier.map((n) => at(n)),
      marks: [at(nights.now, "As it is")],
      x: { title: "minutes of night" },
      y: { title: `laterals seen, of ${nights.now.stations}`, min: 0, max: nights.now.stations },
      also: {
        axis: { title: "run time watched", min: 0, max: 1, write: (v: number) => `${Math.round(100 * v)} %` },
        points: nights.frontier.map((n) => ({ x: n.makespanS / 60, y: n.watched ?? 0 })),
      },
    };
  }, [found]);
  return (
    <figure className="mb-2 max-w-7xl">
      <TradeChart
        label={`Laterals seen by minutes of night: ${drawn.curve.length} nights and the night as it is`}
        {...drawn}
        chosen={chosen}
        onChoose={onChoose}
      />
      <figcaption className="text-sm text-faint">
        Line: the nights in which most is seen for their length; press a point. Diamond: the night as it is. Dashed: the
        share of run time that is watched.
      </figcaption>
    </figure>
  );
}

function FrontierTable({ found, chosen, onChoose }: Shown) {
  const { now, frontier } = found.nights;
  const cells = (n: WatchedNight) => (
    <>
      <td className="text-right">{n.lateralsSeen}</td>
      <td className="text-right">{n.lateralsSeenInEvery}</td>
      <td className="text-right">{percentOf(n.watched)}</td>
      <td className="whitespace-nowrap">
        {n.limits ? `by budget, ${showNumber(n.limits.tripsPerSeason, 2)} trips a season` : "as they stand"}
      </td>
    </>
  );
  return (
    <Scroller className="max-h-72">
      <Table className="max-w-2xl">
        <thead>
          <tr>
            <th>Night, min</th>
            <th className="text-right">Laterals seen in one set at least</th>
            <th className="text-right">In every set</th>
            <th className="text-right">Run time watched</th>
            <th>Limits</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <td>{minutes(now)} as it is</td>
            {cells(now)}
          </tr>
          {frontier.map((n) => (
            <tr key={idOf(n)} aria-selected={idOf(n) === chosen}>
              <td>
                <label className="inline-flex cursor-pointer items-center gap-2 whitespace-nowrap">
                  <Radio name="night" checked={idOf(n) === chosen} onChange={() => onChoose(idOf(n))} />
                  {minutes(n)}
                </label>
              </td>
              {cells(n)}
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}
