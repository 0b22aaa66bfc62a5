"use client";
import dynamic from "next/dynamic";
import { useMemo, useState } from "react";
import { useMornings, useStationMornings } from "@/components/data/use-mornings";
import { useWorkspace } from "@/components/draft/site-draft";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { useConventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { FileButton } from "@/components/kit/file-button";
import { InspectorHead, WithInspector } from "@/components/kit/inspector";
import { Problem } from "@/components/kit/notice";
import type { MorningsStatus } from "@/contracts/mornings";
import type { ReckonedStation } from "@/core/reckon/reckon";
import { NeverApart } from "./never-apart";
import { Said } from "./said";

const EstimateChart = dynamic(() => import("@/components/charts/estimate-chart").then((m) => m.EstimateChart));
/** What a log may be, bytes: as much as a request. */
const MOST_BYTES = 8_000_000;

/** What the nights say on the newest morning: what has changed, what every station flows by them, who cannot be told apart. */
export function LastNight() {
  const { siteId, canEdit, adopt } = useWorkspace("siteId", "canEdit", "adopt");
  const mornings = useMornings(siteId, adopt);
  const { status } = mornings;
  const [tooLarge, setTooLarge] = useState<string | null>(null);
  if (mornings.problem) return <Problem>{mornings.problem}</Problem>;
  if (!status) return <p className="text-faint">Looking at the nights…</p>;
  const take = async (file: File): Promise<void> => {
    const fits = file.size <= MOST_BYTES;
    setTooLarge(fits ? null : `${file.name} is larger than 8 MB. Bring fewer nights, or a row in five seconds.`);
    if (fits) mornings.bring(await file.text());
  };
  return (
    <>
      <div className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <NightLine status={status} />
        {canEdit && (
          <FileButton
            name="A recorder's log, CSV"
            accept=".csv,text/csv"
            onFile={(f) => void take(f)}
            disabled={mornings.bringing}
          >
            Bring a recorder's log
          </FileButton>
        )}
        {mornings.bringing && (
          <span role="status" className="inline-flex items-center gap-2">
            <span className="loading loading-spinner loading-sm" aria-hidden /> Reading its nights…
          </span>
        )}
        {mornings.brought && (
          <span role="status">
            {mornings.brought.nights.length === 1 ? "1 night" : `${mornings.brought.nights.length} nights`} taken in.
          </span>
        )}
      </div>
      {(tooLarge ?? mornings.bringProblem) && <Problem className="mb-3">{tooLarge ?? mornings.bringProblem}</Problem>}
      {status.night !== null && <Told status={status} mornings={mornings} />}
    </>
  );
}

function NightLine({ status: s }: { status: MorningsStatus }) {
  const { day, momentAt } = useConventions();
  if (s.night === null)
    return (
      <p className="max-w-prose">
        No night was read yet. With a gateway (Controllers, Live) each night is read by itself and stands here in the
        morning; else bring the log of a recorder: <code>time</code>, <code>flow L/min</code>, and <code>station</code>{" "}
        with the numbers that are open, a row in five seconds to a minute.
      </p>
    );
  return (
    <p>
      <strong>The night of {day(s.night)}</strong>
      {s.source === "gateway" ? ", as the gateway read it" : ", from a recorder's log"}
      {s.whole ? "" : ", up to now"}; with {s.nights === 1 ? "no night before it" : `${s.nights - 1} before it`},{" "}
      {s.stretches} steady readings{s.workedAt ? `. Worked out ${momentAt(s.workedAt)}.` : "."}
    </p>
  );
}

function Told({ status, mornings }: { status: MorningsStatus; mornings: ReturnType<typeof useMornings> }) {
  const { draft, units } = useWorkspace("draft", "units");
  const [at, setAt] = useScreenParam<string>("station", "", { add: false });
  const name = useMemo(() => new Map(draft.stations.map((s) => [s.id, `${s.number} ${s.name}`])), [draft.stations]);
  const open = status.found.filter((f) => f.until === null);
  const over = status.found.filter((f) => f.until !== null);
  const seen = status.stations.filter((s) => s.nowLpm !== null && name.has(s.stationId));
  const chosen =
    seen.find((s) => s.stationId === at) ?? seen.find((s) => s.stationId === open[0]?.subjectIds[0]) ?? seen[0];
  return (
    <WithInspector
      label="One station over the nights"
      inspector={
        chosen && (
          <StationOverNights
            station={chosen}
            name={name.get(chosen.stationId) ?? chosen.stationId}
            upTo={status.night}
            units={units}
            besides={(status.neverApart.find((g) => g.includes(chosen.stationId)) ?? [])
              .filter((id) => id !== chosen.stationId)
              .map((id) => name.get(id) ?? id)}
          />
        )
      }
    >
      {open.length === 0 && (
        <p className="mb-6">Nothing has changed by these readings: every set flowed as its stations' figures say.</p>
      )}
      {[...open, ...over].map((f) => (
        <Said key={f.id} finding={f} status={status} mornings={mornings} />
      ))}
      <NeverApart groups={status.neverApart} name={name} />
      <h3 className="mb-1 mt-6 text-lg">What every station flows, by these nights</h3>
      <StationTable stations={seen} name={name} chosen={chosen?.stationId ?? null} onChoose={setAt} />
    </WithInspector>
  );
}

type Row = ReckonedStation & { name: string; off: number | null };

function StationTable({
  stations,
  name,
  chosen,
  onChoose,
}: {
  stations: readonly ReckonedStation[];
  name: Map<string, string>;
  chosen: string | null;
  onChoose: (id: string) => void;
}) {
  const { figure, unit } = useConventions();
  const rows = useMemo(
    () =>
      stations.map(
        (s): Row => ({
          ...s,
          name: name.get(s.stationId) ?? s.stationId,
          off: s.expectedLpm && s.nowLpm !== null ? s.nowLpm / s.expectedLpm - 1 : null,
        }),
      ),
    [stations, name],
  );
  const columns = useMemo((): Column<Row>[] => {
    const flow = unit("flow");
    return [
      { id: "name", header: "Station", accessorFn: (r) => r.name, cell: (c) => c.row.original.name },
      {
        id: "expected",
        header: `Figure, ${flow}`,
        accessorFn: (r) => r.expectedLpm ?? 0,
        cell: ({ row: { original: r } }) => (r.expectedLpm === null ? "–" : figure(r.expectedLpm, "flow", 1)),
        meta: { numeric: true },
      },
      {
        id: "now",
        header: `By the nights, ${flow}`,
        accessorFn: (r) => r.nowLpm ?? 0,
        cell: ({ row: { original: r } }) =>
          `${figure(r.nowLpm ?? 0, "flow", 1)} ± ${figure(2 * (r.sdLpm ?? 0), "flow", 1)}`,
        meta: { numeric: true },
      },
      {
        id: "off",
        header: "Off, %",
        accessorFn: (r) => Math.abs(r.off ?? 0),
        cell: ({ row: { original: r } }) =>
          r.off === null ? "–" : `${r.off > 0 ? "+" : ""}${(100 * r.off).toFixed(1)}`,
        meta: { numeric: true },
      },
      {
        id: "seen",
        header: "Read alone, in sets",
        accessorFn: (r) => r.seenAlone,
        cell: ({ row: { original: r } }) => `${r.seenAlone}, ${r.seenInSets}`,
        meta: { numeric: true },
      },
    ];
  }, [figure, unit]);
  return (
    <DataTable
      label="Stations by the nights"
      rows={rows}
      columns={columns}
      idOf={(r) => r.stationId}
      selected={chosen}
      onSelect={onChoose}
    />
  );
}

function StationOverNights({
  station,
  name,
  upTo,
  units,
  besides,
}: {
  station: ReckonedStation;
  name: string;
  upTo: string | null;
  units: "metric" | "us";
  /** Who always ran with it. */
  besides: string[];
}) {
  const { siteId } = useWorkspace("siteId");
  const { figure, quantity, unit } = useConventions();
  const { answer, problem } = useStationMornings(siteId, station.stationId, upTo);
  return (
    <>
      <InspectorHead
        over="Over the nights"
        title={name}
        under={`${figure(station.nowLpm ?? 0, "flow", 1)} ± ${figure(2 * (station.sdLpm ?? 0), "flow", 1)} ${unit("flow")} now${
          station.expectedLpm === null
            ? "; it has no figure"
            : `; its figure is ${quantity(station.expectedLpm, "flow")}`
        }`}
      />
      {besides.length > 0 && (
        <p className="mb-2 text-sm">It always ran with {besides.join(" and ")}: what changed may as well be there.</p>
      )}
      {problem && <Problem>{problem}</Problem>}
      {answer && <EstimateChart of={answer} expectedLpm={station.expectedLpm} units={units} />}
    </>
  );
}
