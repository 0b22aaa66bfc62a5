"use client";
import { ChevronLeft, ChevronRight, X } from "lucide-react";
import { useTranslations } from "next-intl";
import { useMemo, useState } from "react";
import { IconButton } from "@/components/kit/button";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { setLimits } from "@/core/judge/set-limits";
import { policyOfSet } from "@/core/judge/policy-of";
import { type TimedVolume, timedFlow } from "@/core/learn/stopwatch";
import { waterworks } from "@/core/network/waterworks";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import { showNumber } from "@/core/units/units";
import { Big, Part } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { WalkJaw } from "../walk/walk-jaw";
import { Stopwatch } from "./stopwatch";

type Typed = { at: string | null; seconds: number | null; litres: number | null };
type Readings = Record<string, TimedVolume[]>;

/** Flow of stations from a meter and a stopwatch: readings of several are kept beside each other until they are proposed. */
export function FlowPart() {
  const t = useTranslations("learn");
  const { siteId, site, mayEnter } = useSiteHere();
  const [typed, setTyped, read] = useKept<Typed>(`learn ${siteId} flow`, { at: null, seconds: null, litres: null });
  const [readings, setReadings] = useKept<Readings>(`learn ${siteId} readings`, {});
  const stations = site.file.stations;
  const station = stations.find((s) => s.id === typed.at) ?? stations[0];
  if (!read || !station) return null;
  const choose = (id: string): void => setTyped({ at: id, seconds: null, litres: null });
  const others = stations.filter((s) => s.id !== station.id && (readings[s.id]?.length ?? 0) > 0);
  return (
    <>
      <StationChoice station={station} stations={stations} onChoose={choose} />
      <Expected station={station} readings={readings[station.id] ?? []} />
      {mayEnter && (
        <Measure
          siteId={siteId}
          typed={typed}
          onType={setTyped}
          onAdd={(reading) => setReadings({ ...readings, [station.id]: [...(readings[station.id] ?? []), reading] })}
        />
      )}
      <Kept
        station={station}
        readings={readings[station.id] ?? []}
        onChange={(list) => setReadings({ ...readings, [station.id]: list })}
      />
      {others.length > 0 && (
        <Part title={t("kept")}>
          <div className="flex flex-wrap gap-2">
            {others.map((s) => (
              <Big key={s.id} className="min-h-12" onClick={() => choose(s.id)}>
                {s.number} ({readings[s.id]?.length})
              </Big>
            ))}
          </div>
        </Part>
      )}
    </>
  );
}

function StationChoice({
  station,
  stations,
  onChoose,
}: {
  station: Station;
  stations: readonly Station[];
  onChoose: (id: string) => void;
}) {
  const t = useTranslations("learn");
  const at = stations.indexOf(station);
  const [before, after] = [stations[at - 1], stations[at + 1]];
  return (
    <div className="flex items-end gap-2">
      <IconButton
        label={t("before")}
        icon={ChevronLeft}
        rank="plain"
        className="size-12"
        disabled={!before}
        onClick={() => before && onChoose(before.id)}
      />
      <ChoiceField
        label={t("station")}
        className="grow"
        value={station.id}
        options={stations.map((s) => [s.id, `${s.number} ${s.name}`] as const)}
        onCommit={onChoose}
      />
      <IconButton
        label={t("after")}
        icon={ChevronRight}
        rank="plain"
        className="size-12"
        disabled={!after}
        onClick={() => after && onChoose(after.id)}
      />
    </div>
  );
}

/** What it should take, and what was read of it against its limits. */
function Expected({ station, readings }: { station: Station; readings: readonly TimedVolume[] }) {
  const t = useTranslations("walk");
  const { site, conventions } = useSiteHere();
  const figure = expectedFlow(station);
  const w = useMemo(() => waterworks(site.file), [site.file]);
  const limits = setLimits(policyOfSet(w, [site.file.stations.indexOf(station)]), [station]);
  return (
    <div className="mt-3">
      <p className="flex items-baseline justify-between">
        <span className="text-faint">{t("expected")}</span>
        <strong className="text-2xl">{figure ? conventions.quantity(figure.lpm, "flow") : t("unknown")}</strong>
      </p>
      {figure && <WalkJaw station={station} limits={limits} readLpm={timedFlow(readings)?.meanLpm ?? null} />}
    </div>
  );
}

function Measure({
  siteId,
  typed,
  onType,
  onAdd,
}: {
  siteId: string;
  typed: Typed;
  onType: (typed: Typed) => void;
  onAdd: (reading: TimedVolume) => void;
}) {
  const t = useTranslations("learn");
  const { conventions } = useSiteHere();
  const [missing, setMissing] = useState<string | null>(null);
  const { seconds, litres } = typed;
  const add = (): void => {
    if (!seconds || !litres) {
      setMissing(t("needBoth"));
      return;
    }
    setMissing(null);
    onAdd({ litres, seconds });
    onType({ ...typed, seconds: null, litres: null });
  };
  return (
    <section aria-label={t("watch")}>
      <p className="text-faint">{t("how")}</p>
      <Stopwatch draft={`learn ${siteId} watch`} seconds={seconds} onStop={(s) => onType({ ...typed, seconds: s })} />
      <div className="grid grid-cols-2 gap-3">
        <NumberField
          label={t("seconds")}
          unit="s"
          value={seconds ?? undefined}
          min={0}
          max={86_400}
          onCommit={(v) => onType({ ...typed, seconds: v ?? null })}
        />
        <NumberField
          label={t("volume")}
          quantity="volume"
          system={conventions.system}
          value={litres ?? undefined}
          min={0}
          max={1e9}
          onCommit={(v) => onType({ ...typed, litres: v ?? null })}
        />
      </div>
      {missing && <Problem>{missing}</Problem>}
      <Big className="mt-3 w-full" onClick={add}>
        {t("add")}
      </Big>
    </section>
  );
}

/** The readings of a station, how well they repeat, and the proposal that they make. */
function Kept({
  station,
  readings,
  onChange,
}: {
  station: Station;
  readings: readonly TimedVolume[];
  onChange: (readings: TimedVolume[]) => void;
}) {
  const t = useTranslations("learn");
  const { conventions, enter, mayEnter } = useSiteHere();
  const [proposed, setProposed] = useState(false);
  const timed = timedFlow(readings);
  const flow = (lpm: number): string => conventions.quantity(lpm, "flow");
  const propose = (): void => {
    const what = { kind: "flow" as const, stationId: station.id, readings: [...readings] };
    void enter(what, `${station.number} ${station.name}`).then(() => setProposed(true));
    onChange([]);
  };
  if (!timed)
    return (
      proposed && (
        <p role="status" className="mt-3 text-lg">
          {t("proposed")}
        </p>
      )
    );
  return (
    <Part title={t("readings")}>
      <ol aria-label={t("readings")}>
        {readings.map((r, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
          <li key={i} className="flex items-center justify-between gap-2 border-b border-base-300 text-lg">
            <span className="tabular-nums">
              {conventions.quantity(r.litres, "volume")} / {showNumber(r.seconds, 1)} s ={" "}
              <b>{flow((60 * r.litres) / r.seconds)}</b>
            </span>
            <IconButton
              label={t("remove", { number: i + 1 })}
              icon={X}
              className="size-12"
              onClick={() => onChange(readings.filter((_, k) => k !== i))}
            />
          </li>
        ))}
      </ol>
      <p className="py-2 text-lg">
        {t("together", { flow: flow(timed.meanLpm), percent: showNumber((100 * timed.sdLpm) / timed.meanLpm, 1) })}{" "}
        {readings.length === 1 && t("againOne")}
      </p>
      {mayEnter && (
        <Big rank="main" className="min-h-16 w-full" onClick={propose}>
          {t("propose", { flow: flow(timed.meanLpm), number: station.number })}
        </Big>
      )}
    </Part>
  );
}
