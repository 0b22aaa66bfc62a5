"use client";
import { useMemo } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { useConventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { type BraidRun, runKey, seconds, whyThen } from "@/components/pictures/braid/braid-data";

/** The braid as a table. */
export function RunTable({ runs, onSelect }: { runs: BraidRun[]; onSelect: (run: BraidRun) => void }) {
  const { draft, date } = useWorkspace("draft", "date");
  const { figure, unit, clock } = useConventions();
  const columns = useMemo((): Column<BraidRun>[] => {
    const stations = new Map(draft.stations.map((s) => [s.id, s]));
    const programs = new Map(draft.programs.map((p) => [p.id, p.name]));
    const at = (iso: string): string => `${iso.slice(11, 19)}${clock(iso, date).slice(5)}`;
    return [
      { id: "opens", header: "Opens", accessorFn: (r) => r.start, cell: ({ row }) => at(row.original.start) },
      { id: "closes", header: "Closes", accessorFn: (r) => r.end, cell: ({ row }) => at(row.original.end) },
      {
        id: "minutes",
        header: "Minutes",
        meta: { numeric: true },
        accessorFn: (r) => (seconds(r.end) - seconds(r.start)) / 60,
        cell: ({ getValue }) => (getValue() as number).toFixed(1),
      },
      {
        id: "station",
        header: "Station",
        accessorFn: (r) => stations.get(r.stationId)?.number ?? 0,
        cell: ({ row }) => {
          const s = stations.get(row.original.stationId);
          return `${s?.number} ${s?.name}`;
        },
      },
      { id: "program", header: "Program", accessorFn: (r) => programs.get(r.programId) ?? "" },
      { id: "cycle", header: "Cycle", meta: { numeric: true }, accessorFn: (r) => r.cycle },
      {
        id: "flow",
        header: `Flow, ${unit("flow")}`,
        meta: { numeric: true },
        accessorFn: (r) => r.flowLpm ?? -1,
        cell: ({ row }) => (row.original.flowLpm === null ? "–" : figure(row.original.flowLpm, "flow", 1)),
      },
      { id: "why", header: "Why then", enableSorting: false, accessorFn: (r) => whyThen(draft, r) },
    ];
  }, [draft, date, figure, unit, clock]);
  const byKey = useMemo(() => new Map(runs.map((r) => [runKey(r), r])), [runs]);
  return (
    <DataTable
      label="Runs of the night"
      rows={runs}
      columns={columns}
      idOf={runKey}
      onSelect={(key) => {
        const run = byKey.get(key);
        if (run) onSelect(run);
      }}
    />
  );
}
