"use client";
import { useMemo } from "react";
import { conventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { Checkbox } from "@/components/kit/inputs";
import { Mark } from "@/components/kit/notice";
import type { SitePreview } from "@/contracts/deeds";
import { groupNames, type SortedSite } from "@/contracts/groups";

const { clock } = conventions("metric");
/** More findings than this are counted, not told. */
const TOLD = 3;

type Row = { site: SortedSite; preview: SitePreview | undefined };
type Turn = (siteIds: string[], on: boolean) => void;

function columns(chosen: ReadonlySet<string>, turn: Turn, looked: boolean): Column<Row>[] {
  return [
    {
      id: "tick",
      header: () => <span className="sr-only">Ticked</span>,
      enableSorting: false,
      cell: ({ row: { original: r } }) => (
        <Checkbox
          aria-label={`Change ${r.site.name}`}
          checked={chosen.has(r.site.id)}
          onChange={(e) => turn([r.site.id], e.target.checked)}
        />
      ),
    },
    {
      id: "name",
      header: "Site",
      accessorFn: (r) => r.site.name,
      cell: ({ row: { original: r } }) => (
        <>
          {r.site.name}
          <div className="text-xs text-faint">{groupNames(r.site).join(" · ")}</div>
        </>
      ),
    },
    ...(looked ? LOOKED : []),
  ];
}

const LOOKED: Column<Row>[] = [
  {
    id: "changes",
    header: "What changes",
    accessorFn: (r) => r.preview?.changes.length ?? -1,
    cell: ({ row }) => <Changes preview={row.original.preview} />,
  },
  {
    id: "ends",
    header: "Tonight ends",
    enableSorting: false,
    cell: ({ row: { original: r } }) => r.preview && <FromTo of={r.preview} figure={ends} />,
  },
  {
    id: "short",
    header: "Short, min",
    accessorFn: (r) => r.preview?.after?.shortfallMin ?? -1,
    cell: ({ row: { original: r } }) => r.preview && <FromTo of={r.preview} figure={short} />,
  },
  {
    id: "budget",
    header: "Of budget, %",
    accessorFn: (r) => r.preview?.after?.ofBudget ?? -1,
    meta: { className: "max-md:hidden" },
    cell: ({ row: { original: r } }) => r.preview && <FromTo of={r.preview} figure={budget} />,
  },
  {
    id: "findings",
    header: "Findings",
    enableSorting: false,
    meta: { className: "max-md:hidden" },
    cell: ({ row: { original: r } }) => r.preview && <Findings preview={r.preview} />,
  },
];

type Night = NonNullable<SitePreview["after"]>;
const ends = (of: SitePreview, { finish }: Night): string => (finish ? clock(finish, of.localDate) : "no runs");
const short = (_: SitePreview, { shortfallMin }: Night): string => String(Math.round(shortfallMin));

const budget = (_: SitePreview, { ofBudget }: Night): string =>
  ofBudget === null ? "–" : String(Math.round(100 * ofBudget));

function FromTo({ of, figure }: { of: SitePreview; figure: (of: SitePreview, night: Night) => string }) {
  if (!of.before || !of.after) return <span className="text-faint">–</span>;
  const [was, is] = [figure(of, of.before), figure(of, of.after)];
  if (was === is) return <span className="text-faint">{is}</span>;
  return (
    <>
      <span className="text-faint">{was} → </span>
      <strong>{is}</strong>
    </>
  );
}

function Changes({ preview }: { preview: SitePreview | undefined }) {
  if (!preview) return null;
  if (preview.problem) return <Mark tone="alarm">{preview.problem}</Mark>;
  if (preview.changes.length === 0) return <span className="text-faint">nothing</span>;
  return (
    <>
      {preview.changes.slice(0, TOLD).map((words) => (
        <div key={words}>{words}</div>
      ))}
      {preview.changes.length > TOLD && <div className="text-faint">and {preview.changes.length - TOLD} more</div>}
    </>
  );
}

function Findings({ preview: { come, go } }: { preview: SitePreview }) {
  if (come.length + go.length === 0) return <span className="text-faint">the same</span>;
  return (
    <>
      {come.slice(0, TOLD).map((words) => (
        <div key={words}>
          <Mark tone="caution">{words}</Mark>
        </div>
      ))}
      {come.length > TOLD && <div className="text-warning">and {come.length - TOLD} more come</div>}
      {go.length > 0 && <div className="text-faint">{go.length === 1 ? `gone: ${go[0]}` : `${go.length} go`}</div>}
    </>
  );
}

/** The sites that are found, which of them are ticked, and what the change would do to each once that was looked at. */
export function SitesToChange({
  sites,
  chosen,
  previews,
  turn,
}: {
  sites: readonly SortedSite[];
  chosen: ReadonlySet<string>;
  previews: ReadonlyMap<string, SitePreview>;
  turn: Turn;
}) {
  const looked = previews.size > 0;
  const rows = useMemo(() => sites.map((site): Row => ({ site, preview: previews.get(site.id) })), [sites, previews]);
  const made = useMemo(() => columns(chosen, turn, looked), [chosen, turn, looked]);
  return (
    <DataTable
      label="Sites to change"
      rows={rows}
      columns={made}
      idOf={(r) => r.site.id}
      empty={<p className="my-4">No site matches. Clear the search or choose another group.</p>}
    />
  );
}
