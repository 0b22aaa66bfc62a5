"use client";
import { useTranslations } from "next-intl";
import { useEffect, useMemo, useState } from "react";
import { classes } from "@/components/kit/classes";
import { NumberField } from "@/components/kit/fields";
import type { WalkProblem, WalkView } from "@/contracts/walks";
import { setLimits } from "@/core/judge/set-limits";
import { policyOfSet } from "@/core/judge/policy-of";
import { waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { Big, Careful } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { useLive } from "../../use-live";
import { type FlowAlone, flowOfAlone } from "./flow-alone";
import { ProblemForm, type ProblemTyped, NOTHING_TYPED } from "./problem-form";
import { RunButton } from "./run-button";
import { WalkJaw } from "./walk-jaw";

const EAGER_MS = 350;

type Typed = { readLpm: number | null; problem: ProblemTyped | null };
const NOTHING: Typed = { readLpm: null, problem: null };

/** One station of a walk: what it should take alone, what it reads, and what came of it. */
export function StationCard({
  walk,
  station,
  stationId,
  nextId,
  mayEnter,
  onGo,
}: {
  walk: WalkView;
  /** Null: it is gone from the site by now. */
  station: Station | null;
  stationId: string;
  nextId: string | null;
  mayEnter: boolean;
  onGo: (to: string | null) => void;
}) {
  const t = useTranslations("walk");
  const { site, enter } = useSiteHere();
  const draft = `walk ${walk.id} ${stationId}`;
  const [typed, setTyped, read] = useKept<Typed>(draft, NOTHING);
  const live = useLive();
  const w = useMemo(() => waterworks(site.file), [site.file]);
  const alone = live && station ? flowOfAlone(w, station, live) : null;
  const readLpm = typed.readLpm ?? (alone?.settled ? alone.lpm : null);
  const name = station ? `${station.number} ${station.name}` : stationId;
  // A second press of an eager thumb is not meant for the station that has just come.
  const [eager, setEager] = useState(true);
  useEffect(() => {
    const timer = setTimeout(() => setEager(false), EAGER_MS);
    return () => clearTimeout(timer);
  }, []);
  const before = walk.stationIds[walk.stationIds.indexOf(stationId) - 1];
  const done = walk.looked.find((l) => l.stationId === stationId);
  if (!read) return null;
  const look = (state: "fine" | "skipped"): void => {
    void enter(lookOf(walk.id, stationId, { state, readLpm: state === "fine" ? readLpm : null }), name, draft);
    onGo(nextId ?? "end");
  };
  const note = (p: ProblemTyped): void => {
    const { problem, note: words, photoIds, ownerId, due } = p;
    const more = { state: "problem" as const, readLpm, problem, note: words.trim(), photoIds, ownerId, due };
    void enter(lookOf(walk.id, stationId, more), name, draft);
    onGo(nextId ?? "end");
  };
  const nextNumber = site.file.stations.find((s) => s.id === nextId)?.number;
  return (
    <article aria-label={name} className="py-3">
      <StationHead station={station} stationId={stationId} done={done?.state ?? null} />
      {station && (
        <Reading
          station={station}
          typed={typed.readLpm}
          live={alone}
          since={live?.since ?? 0}
          mayEnter={mayEnter}
          onType={(v) => setTyped({ ...typed, readLpm: v ?? null })}
        />
      )}
      {mayEnter && typed.problem && (
        <ProblemForm
          typed={typed.problem}
          onType={(problem) => setTyped({ ...typed, problem })}
          onKeep={() => typed.problem && note(typed.problem)}
          onLeave={() => setTyped({ ...typed, problem: null })}
        />
      )}
      {mayEnter && !typed.problem && (
        <div className={classes("mt-3 grid grid-cols-2 gap-2.5", eager && "pointer-events-none")}>
          <Big rank="main" className="col-span-2 min-h-20 text-xl" onClick={() => look("fine")}>
            {nextNumber === undefined ? t("fineLast") : t("fineNext", { number: nextNumber })}
          </Big>
          <Big
            rank="danger"
            className="min-h-20"
            onClick={() => setTyped({ ...typed, problem: { ...NOTHING_TYPED, photoIds: [] } })}
          >
            {t("problem")}
          </Big>
          <RunButton stationId={stationId} />
          <Big onClick={() => look("skipped")}>{t("skip")}</Big>
          <Big disabled={before === undefined} onClick={() => onGo(before ?? null)}>
            {t("back")}
          </Big>
        </div>
      )}
      <Big rank="quiet" className="mt-2 min-h-12 w-full" onClick={() => onGo("list")}>
        {t("list")}
      </Big>
      <Careful>{t("caution")}</Careful>
    </article>
  );
}

type Look = {
  state: "fine" | "problem" | "skipped";
  readLpm: number | null;
  problem?: WalkProblem | null;
  note?: string;
  photoIds?: string[];
  ownerId?: string | null;
  due?: string | null;
};
const lookOf = (walkId: string, stationId: string, look: Look) => ({
  kind: "walkLook" as const,
  walkId,
  stationId,
  problem: null,
  note: "",
  photoIds: [],
  ownerId: null,
  due: null,
  ...look,
});

function StationHead({
  station,
  stationId,
  done,
}: {
  station: Station | null;
  stationId: string;
  done: "fine" | "problem" | "skipped" | null;
}) {
  const t = useTranslations("walk");
  const { file } = useSiteHere().site;
  const words = { fine: t("fine"), problem: t("problemWord"), skipped: t("skipped") };
  return (
    <>
      <p className="flex items-baseline justify-between">
        <span className="text-[3.25rem] font-semibold leading-none">{station?.number ?? "–"}</span>
        {done && <span className="badge badge-plain">{words[done]}</span>}
      </p>
      <h2 className="text-xl">
        {station?.name ?? stationId}
        {station?.lockedOut && <span className="text-error"> · {t("lockedOut")}</span>}
      </h2>
      {station && <p className="text-faint">{placeOf(file, station)}</p>}
    </>
  );
}

function placeOf(file: SiteFile, { mainlineId, controllerId, description, notes }: Station): string {
  const main = file.mainlines.find((m) => m.id === mainlineId)?.name;
  const controller = file.controllers.length > 1 ? file.controllers.find((c) => c.id === controllerId)?.name : null;
  return [main, controller, description, notes].filter(Boolean).join(" · ");
}

/** What it should take alone, what it reads or read, and both between its limits. */
function Reading({
  station,
  typed,
  live,
  since,
  mayEnter,
  onType,
}: {
  station: Station;
  typed: number | null;
  live: FlowAlone | null;
  since: number;
  mayEnter: boolean;
  onType: (lpm: number | undefined) => void;
}) {
  const t = useTranslations("walk");
  const { site, conventions } = useSiteHere();
  const figure = expectedFlow(station);
  const limits = useMemo(() => {
    const at = site.file.stations.indexOf(station);
    return setLimits(policyOfSet(waterworks(site.file), [at]), [station]);
  }, [site.file, station]);
  const now = typed ?? live?.lpm ?? null;
  const settled = typed !== null || live?.settled === true;
  const change = figure && now !== null ? Math.round(100 * (now / figure.lpm - 1)) : null;
  const outside = settled && limits.judged && now !== null && (now > limits.highLpm || now < limits.lowLpm);
  const from =
    figure &&
    {
      design: t("designFigure"),
      entered: t("enteredFigure"),
      learned: t("learnedFigure", { date: conventions.dateAt(station.learned?.at ?? "1970-01-01T00:00:00Z") }),
    }[figure.from];
  return (
    <div className="mt-2 border-y border-base-300 py-2">
      <dl className="grid grid-cols-2 gap-3">
        <div>
          <dt className="text-sm text-faint">{t("expected")}</dt>
          <dd className="text-2xl font-semibold tabular-nums">
            {figure ? conventions.quantity(figure.lpm, "flow") : <span className="text-xl">{t("unknown")}</span>}
          </dd>
          {from && <dd className="text-sm text-faint">{from}</dd>}
        </div>
        <div aria-live="polite">
          <dt className="text-sm text-faint">
            {typed === null && live !== null
              ? t(settled ? "readNow" : "fills", { seconds: Math.round(since / 1000) })
              : t("read")}
          </dt>
          <dd className={classes("text-2xl font-semibold tabular-nums", outside && "text-error")}>
            <span className="whitespace-nowrap">{now === null ? "–" : conventions.quantity(now, "flow")}</span>{" "}
            {change !== null && (
              <span className="whitespace-nowrap text-lg">{change > 0 ? `+${change}` : change} %</span>
            )}
          </dd>
        </div>
      </dl>
      {figure && <WalkJaw station={station} limits={limits} readLpm={settled ? now : null} />}
      {mayEnter && live === null && (
        <NumberField
          label={t("typeRead")}
          quantity="flow"
          system={conventions.system}
          value={typed ?? undefined}
          min={0}
          max={100_000}
          onCommit={onType}
        />
      )}
    </div>
  );
}
