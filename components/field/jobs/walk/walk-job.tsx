"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import type { WalkView } from "@/contracts/walks";
import { Big, Careful, Choices, Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { StationCard } from "./station-card";
import { WalkEnd } from "./walk-end";
import { WalkStations } from "./walk-stations";
import { firstLeft, sumOf } from "./walk-sums";

/** From station to station: each fine, a problem or skipped. A walk can be left and is taken up where it was. */
export function WalkJob() {
  const { site } = useSiteHere();
  const mine = site.walks.find((w) => w.mine && w.endedAt === null);
  return mine ? <OneWalk key={mine.id} walk={mine} /> : <BeginWalk />;
}

const ALL = "all";

function BeginWalk() {
  const t = useTranslations("walk");
  const { site, mayEnter, enter, conventions } = useSiteHere();
  const { controllers, stations } = site.file;
  const [chosen, setChosen] = useState(ALL);
  const mine = controllers
    .filter((c) => chosen === ALL || c.id === chosen)
    .flatMap((c) => stations.filter((s) => s.controllerId === c.id).sort((a, b) => a.number - b.number));
  const others = site.walks.filter((w) => !w.mine && w.endedAt === null);
  const last = site.walks.find((w) => w.endedAt !== null);
  if (stations.length === 0) return <p className="py-4 text-lg">{t("noStations")}</p>;
  return (
    <div className="py-3">
      <Careful>{t("caution")}</Careful>
      {others.map((w) => (
        <p key={w.id}>{t("others", { name: w.by, moment: conventions.momentAt(w.begunAt) })}</p>
      ))}
      {controllers.length > 1 && (
        <Choices
          label={t("which")}
          columns={1}
          at={chosen}
          options={[[ALL, t("all")], ...controllers.map((c) => [c.id, c.name] as const)]}
          onChoose={setChosen}
        />
      )}
      {mayEnter && (
        <Big
          rank="main"
          className="mt-3 min-h-20 w-full flex-col"
          disabled={mine.length === 0}
          onClick={() =>
            void enter(
              { kind: "walkBegin", walkId: crypto.randomUUID(), stationIds: mine.map((s) => s.id) },
              site.file.site.name,
            )
          }
        >
          {t("begin")} <span className="text-sm font-normal">{t("stations", { count: mine.length })}</span>
        </Big>
      )}
      {last && <LastWalk walk={last} />}
    </div>
  );
}

function LastWalk({ walk }: { walk: WalkView }) {
  const t = useTranslations("walk");
  const { conventions } = useSiteHere();
  const { fine, problems } = sumOf(walk);
  return (
    <Part title={t("last")}>
      <p>{t("lastWords", { moment: conventions.momentAt(walk.begunAt), name: walk.by, fine, problems })}</p>
    </Part>
  );
}

function OneWalk({ walk }: { walk: WalkView }) {
  const t = useTranslations("walk");
  const { site, mayEnter, conventions } = useSiteHere();
  const [at, setAt, read] = useKept<string | null>(`walk ${walk.id} at`, null);
  if (!read) return null;
  const here = at ?? firstLeft(walk) ?? "end";
  const { problems, looked } = sumOf(walk);
  const number = walk.stationIds.indexOf(here) + 1;
  const of = walk.stationIds.length;
  const next = walk.stationIds[number];
  return (
    <>
      <div className="-mx-4 border-b border-base-300 bg-base-200 px-4 pt-1.5">
        <p className="flex justify-between gap-2" role="status">
          <span>{t("progress", { at: number || looked, of, problems })}</span>
          <span className="text-faint">{conventions.here(walk.begunAt).slice(-5)}</span>
        </p>
        <progress className="progress mb-1 block w-full" max={of} value={looked} aria-label={t("title")} />
      </div>
      {here === "end" && <WalkEnd walk={walk} onGo={setAt} />}
      {here === "list" && <WalkStations walk={walk} onGo={setAt} />}
      {number > 0 && (
        <StationCard
          key={here}
          walk={walk}
          station={site.file.stations.find((s) => s.id === here) ?? null}
          stationId={here}
          nextId={next ?? null}
          mayEnter={mayEnter}
          onGo={setAt}
        />
      )}
    </>
  );
}
