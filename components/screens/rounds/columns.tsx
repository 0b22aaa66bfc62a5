import Link from "next/link";
import { type SitesNow, useSiteNow } from "@/components/data/use-rounds-live";
import { classes } from "@/components/kit/classes";
import { conventions, useLanguage } from "@/components/kit/conventions";
import type { Column } from "@/components/kit/data-table";
import { NightSketch } from "@/components/pictures/night-sketch";
import { RULE_WORDS } from "@/components/words/rule-words";
import { groupNames } from "@/contracts/groups";
import { MOST_FIRST, type RoundsRow, type RoundsSort, type SiteNow } from "@/contracts/rounds";
import { lasted } from "@/core/field/controller-findings";

/** Columns that somebody may do without, in their order. */
export const CHOICE_COLUMNS = [
  ["night", "Tonight"],
  ["now", "Now"],
  ["ends", "Ends"],
  ["short", "Short, min"],
  ["binds", "What binds"],
  ["watched", "Watched, %"],
  ["learned", "Oldest learning"],
  ["client", "Client"],
  ["area", "Area"],
  ["crew", "Crew"],
  ["stations", "Stations"],
  ["budget", "Of budget, %"],
] as const;
export type ChoiceColumn = (typeof CHOICE_COLUMNS)[number][0];
export const USUAL_COLUMNS: readonly ChoiceColumn[] = ["night", "now", "ends", "short", "binds", "watched", "learned"];

function Why({ row }: { row: RoundsRow }) {
  if (row.why.length + row.nights.length === 0) return <span className="text-faint">nothing today</span>;
  // What stands open now comes before what the nights say, and that before the rest.
  const now = row.openAlarms > 0 ? 1 : 0;
  return (
    <>
      {row.why.slice(0, now).map((w) => (
        <Link
          key={w}
          href={`/sites/${row.id}/log?view=alarms`}
          className="block min-h-6 font-semibold text-error hover:underline"
        >
          {w}
        </Link>
      ))}
      {row.nights.map((w) => (
        <Link key={w} href={`/sites/${row.id}/night?view=last`} className="link block min-h-6">
          {w}
        </Link>
      ))}
      {row.why.slice(now).map((w) => (
        <span key={w} className="block max-w-md">
          {w}
        </span>
      ))}
    </>
  );
}

const STATE_WORDS: Record<SiteNow["state"], string> = {
  rest: "nothing open",
  inside: "as expected",
  over: "over its limit",
  under: "under its limit",
};
/** A reading that is older is not of now. */
const FRESH_MS = 5 * 60_000;

/** What a live site reads now, of what should flow. */
function Now({ sites, row }: { sites: SitesNow; row: RoundsRow }) {
  const now = useSiteNow(sites, row.id);
  if (!now) return <Nothing />;
  const { quantity, figure } = conventions(row.units);
  const age = Date.now() - Date.parse(now.at);
  const old = age > FRESH_MS;
  const bad = now.state === "over" || now.state === "under";
  return (
    <span className={old ? "text-faint" : ""}>
      <span className={classes("block whitespace-nowrap", bad && "font-semibold text-error")}>
        {now.expectedLpm === null
          ? quantity(now.readingLpm, "flow")
          : `${figure(now.readingLpm, "flow")} of ${quantity(now.expectedLpm, "flow")}`}
      </span>
      <span className={classes("block text-xs", bad ? "text-error" : "text-faint")}>
        {old ? `${lasted(age / 60_000)} ago` : `${STATE_WORDS[now.state]}${now.open > 0 ? `, ${now.open} open` : ""}`}
      </span>
    </span>
  );
}

function Learned({ row: r }: { row: RoundsRow }) {
  const language = useLanguage();
  return (
    <>
      {r.oldestLearned ? conventions(r.units, "UTC", language).date(r.oldestLearned) : <Nothing words="never" />}
      {r.unlearned > 0 && <div className="text-xs text-warning">{r.unlearned} not learned</div>}
    </>
  );
}

function Nothing({ words = "–" }: { words?: string }) {
  return <span className="text-faint">{words}</span>;
}

function Site({ row: r }: { row: RoundsRow }) {
  return (
    <>
      <Link className="text-lg font-semibold underline-offset-2 hover:underline" href={`/sites/${r.id}/night`}>
        {r.name}
      </Link>
      {r.summary && (
        <div className="text-xs text-faint">
          {r.stations} stations, {r.controllers} controller{r.controllers === 1 ? "" : "s"}
        </div>
      )}
      {groupNames(r).length > 0 && (
        <div className="max-w-44 truncate text-xs text-faint max-sm:max-w-28" title={groupNames(r).join(" · ")}>
          {groupNames(r).join(" · ")}
        </div>
      )}
      {r.old && (
        <div className="text-xs text-warning">
          {r.summary
            ? "its night is being worked out anew; figures are of before"
            : "its first night is being worked out"}
        </div>
      )}
    </>
  );
}

type Cell = (row: RoundsRow) => React.ReactNode;
type Plain = Omit<Column<RoundsRow>, "id" | "header" | "cell" | "accessorFn">;

/** What each column shows; what a night has to say is left out where none is worked out. */
const CELLS: Record<Exclude<ChoiceColumn, "now">, Cell> = {
  night: (r) => r.summary && <NightSketch summary={r.summary} name={r.name} />,
  ends: (r) =>
    r.summary?.finish ? conventions(r.units).clock(r.summary.finish, r.localDate) : <Nothing words="no runs" />,
  short: (r) => {
    const minutes = Math.round(r.summary?.shortfallMin ?? 0);
    return minutes >= 1 ? <strong className="text-error">{minutes}</strong> : "0";
  },
  binds: (r) =>
    r.summary?.binding ? (
      <>
        {r.summary.binding.name}
        <div className="text-xs text-faint">
          {conventions(r.units).quantity(r.summary.binding.ceilingLpm, "flow")}, {RULE_WORDS[r.summary.binding.rule]}
        </div>
      </>
    ) : (
      <Nothing words="nothing" />
    ),
  watched: (r) => (r.summary?.watched == null ? "–" : Math.round(r.summary.watched * 100)),
  learned: (r) => <Learned row={r} />,
  client: (r) => r.client ?? <Nothing />,
  area: (r) => r.area ?? <Nothing />,
  crew: (r) => r.crew ?? <Nothing />,
  stations: (r) => r.stations,
  budget: (r) =>
    r.ofBudget === null ? (
      <Nothing words="no budget" />
    ) : (
      <span className={r.ofBudget > 1 ? "font-semibold text-error" : ""}>{Math.round(100 * r.ofBudget)}</span>
    ),
};

const MORE: Partial<Record<ChoiceColumn, Plain>> = {
  night: { enableSorting: false, meta: { className: "max-sm:hidden" } },
  now: { enableSorting: false, meta: { className: "max-sm:hidden" } },
  // On a phone the reasons say it.
  ends: { meta: { className: "max-sm:hidden" } },
  short: { meta: { numeric: true, className: "max-sm:hidden" } },
  binds: { meta: { className: "max-md:hidden" } },
  watched: { meta: { numeric: true, className: "max-md:hidden" } },
  learned: { meta: { className: "max-sm:hidden" } },
  stations: { meta: { numeric: true } },
  budget: { meta: { numeric: true } },
};

/** The site and why it needs somebody, then what is chosen. Sorted on the server: the columns only say by what. */
export function columns(sites: SitesNow, chosen: ReadonlySet<ChoiceColumn>): Column<RoundsRow>[] {
  const one = (id: RoundsSort | ChoiceColumn, header: string, cell: Cell, more: Plain = {}): Column<RoundsRow> => ({
    id,
    header,
    accessorFn: (r) => r.name,
    cell: ({ row }) => cell(row.original),
    sortDescFirst: MOST_FIRST.has(id as RoundsSort),
    ...more,
  });
  return [
    one("name", "Site", (r) => <Site row={r} />),
    one("need", "Needs someone for", (r) => <Why row={r} />, { meta: { className: "max-sm:min-w-44" } }),
    ...CHOICE_COLUMNS.filter(([id]) => chosen.has(id)).map(([id, header]) =>
      one(id, header, id === "now" ? (r) => <Now sites={sites} row={r} /> : CELLS[id], MORE[id]),
    ),
  ];
}
