"use client";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { PageHead } from "@/components/frame/page-head";
import { classes } from "@/components/kit/classes";
import { conventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { holdsWords } from "@/components/kit/find-words";
import { InBrowser } from "@/components/kit/in-browser";
import { Input, Select } from "@/components/kit/inputs";
import { isTyping } from "@/components/kit/typing";
import { NightSketch } from "@/components/pictures/night-sketch";
import { RULE_WORDS } from "@/components/words/rule-words";
import { type SitesNow, useSiteNow, useSitesNow } from "@/components/data/use-rounds-live";
import { lasted } from "@/core/field/controller-findings";
import { foundBy, GROUP_KINDS, groupNames } from "@/contracts/groups";
import type { RoundsRow, SiteNow } from "@/contracts/rounds";
import { NewSite } from "./new-site";

/** While nights are being worked out they are asked for so often. */
const ASK_AGAIN_MS = 1500;

type Only = "all" | "needs" | "held" | "alarms";
const ONLY: [Only, string][] = [
  ["all", "all sites"],
  ["needs", "need someone today"],
  ["held", "off"],
  ["alarms", "with open alarms"],
];
const PASSES: Record<Only, (r: RoundsRow) => boolean> = {
  all: () => true,
  needs: (r) => r.urgency >= 30,
  held: (r) => r.hold !== null,
  alarms: (r) => r.openAlarms > 0,
};

function Why({ row }: { row: RoundsRow }) {
  if (row.why.length + row.nights.length === 0) return <span className="text-faint">nothing today</span>;
  // What stands open now comes before what the nights say, and that before the rest.
  const now = row.openAlarms > 0 ? 1 : 0;
  return (
    <>
      {row.why.slice(0, now).map((w) => (
        <span key={w} className="block font-semibold text-error">
          {w}
        </span>
      ))}
      {row.nights.map((w) => (
        <Link key={w} href={`/sites/${row.id}/night?view=last`} className="link block">
          {w}
        </Link>
      ))}
      {row.why.slice(now).map((w) => (
        <span key={w} className="block">
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
  if (!now) return <span className="text-faint">–</span>;
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

function columns(sites: SitesNow): Column<RoundsRow>[] {
  return [
    {
      id: "name",
      header: "Site",
      accessorFn: (r) => r.name,
      cell: ({ row: { original: r } }) => (
        <>
          <Link className="text-lg font-semibold underline-offset-2 hover:underline" href={`/sites/${r.id}/night`}>
            {r.name}
          </Link>
          <div className="text-xs text-faint">
            {r.stations} stations, {r.controllers} controller{r.controllers === 1 ? "" : "s"}
          </div>
          {groupNames(r).length > 0 && (
            <div className="max-w-44 truncate text-xs text-faint" title={groupNames(r).join(" · ")}>
              {groupNames(r).join(" · ")}
            </div>
          )}
          {r.old && (
            <div className="text-xs text-warning">its night is being worked out anew; figures are of before</div>
          )}
        </>
      ),
    },
    {
      id: "why",
      header: "Needs someone for",
      accessorFn: (r) => -r.urgency,
      cell: ({ row }) => <Why row={row.original} />,
    },
    {
      id: "night",
      header: "Tonight",
      enableSorting: false,
      meta: { className: "max-sm:hidden" },
      cell: ({ row: { original: r } }) => <NightSketch summary={r.summary} name={r.name} />,
    },
    {
      id: "now",
      header: "Now",
      enableSorting: false,
      meta: { className: "max-sm:hidden" },
      cell: ({ row }) => <Now sites={sites} row={row.original} />,
    },
    {
      id: "ends",
      header: "Ends",
      accessorFn: (r) => r.summary.finish ?? "",
      cell: ({ row: { original: r } }) =>
        r.summary.finish ? (
          conventions(r.units).clock(r.summary.finish, r.localDate)
        ) : (
          <span className="text-faint">no runs</span>
        ),
    },
    {
      id: "short",
      header: "Short, min",
      meta: { numeric: true },
      accessorFn: (r) => r.summary.shortfallMin,
      cell: ({ row: { original: r } }) => {
        const minutes = Math.round(r.summary.shortfallMin);
        return minutes >= 1 ? <strong className="text-error">{minutes}</strong> : "0";
      },
    },
    {
      id: "binds",
      header: "What binds",
      meta: { className: "max-md:hidden" },
      accessorFn: (r) => r.summary.binding?.name ?? "",
      cell: ({ row: { original: r } }) =>
        r.summary.binding ? (
          <>
            {r.summary.binding.name}
            <div className="text-xs text-faint">
              {conventions(r.units).quantity(r.summary.binding.ceilingLpm, "flow")},{" "}
              {RULE_WORDS[r.summary.binding.rule]}
            </div>
          </>
        ) : (
          <span className="text-faint">nothing</span>
        ),
    },
    {
      id: "watched",
      header: "Watched, %",
      meta: { numeric: true, className: "max-md:hidden" },
      accessorFn: (r) => r.summary.watched ?? -1,
      cell: ({ row: { original: r } }) => (r.summary.watched === null ? "–" : Math.round(r.summary.watched * 100)),
    },
    {
      id: "learned",
      header: "Oldest learning",
      meta: { className: "max-sm:hidden" },
      accessorFn: (r) => r.oldestLearned ?? "",
      cell: ({ row: { original: r } }) => (
        <>
          {r.oldestLearned ? conventions(r.units).date(r.oldestLearned) : <span className="text-faint">never</span>}
          {r.unlearned > 0 && <div className="text-xs text-warning">{r.unlearned} not learned</div>}
        </>
      ),
    },
  ];
}

/** The groups of a site, each as kind and name: a client and an area may be called alike. */
const namedGroups = (r: RoundsRow): string[] => GROUP_KINDS.flatMap((k) => (r[k] === null ? [] : [`${k} ${r[k]}`]));

/** Which client's, area's or crew's sites are shown; nothing to choose where no site is sorted. */
function GroupChoice({
  rows,
  value,
  onChange,
}: {
  rows: readonly RoundsRow[];
  value: string;
  onChange: (group: string) => void;
}) {
  const all = [...new Set(rows.flatMap(namedGroups))].sort((a, b) => a.localeCompare(b));
  if (all.length === 0) return null;
  return (
    <Select className="w-44" value={value} aria-label="Of" onChange={(e) => onChange(e.target.value)}>
      <option value="">of anybody, anywhere</option>
      {GROUP_KINDS.map((kind) => (
        <optgroup key={kind} label={kind}>
          {all
            .filter((g) => g.startsWith(`${kind} `))
            .map((g) => (
              <option key={g} value={g}>
                {g.slice(kind.length + 1)}
              </option>
            ))}
        </optgroup>
      ))}
    </Select>
  );
}

/** All sites, those that need someone today first. */
export function Rounds({ rows, user }: { rows: RoundsRow[]; user: { name: string; role: string } }) {
  const [find, setFind] = useState("");
  const [only, setOnly] = useState<Only>("all");
  const [within, setWithin] = useState("");
  const [at, setAt] = useState<string | null>(null);
  const router = useRouter();
  const findBox = useRef<HTMLInputElement>(null);
  useAlarmNews(() => router.refresh());
  const waiting = rows.some((r) => r.old);
  useEffect(() => {
    if (!waiting) return;
    const timer = setInterval(() => router.refresh(), ASK_AGAIN_MS);
    return () => clearInterval(timer);
  }, [waiting, router]);
  const shown = useMemo(
    () =>
      rows.filter(
        (r) =>
          holdsWords(foundBy(r), find) &&
          PASSES[only](r) &&
          (within === "" || namedGroups(r).some((g) => g === within)),
      ),
    [rows, find, only, within],
  );
  const sites = useSitesNow();
  const made = useMemo(() => columns(sites), [sites]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey) return;
      if (e.key === "/") {
        e.preventDefault();
        findBox.current?.focus();
      }
      if (e.key === "j" || e.key === "k") {
        const row = document.querySelector<HTMLElement>('tr[data-row][tabindex="0"]');
        if (document.activeElement !== row) row?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const openAlarms = rows.reduce((sum, r) => sum + r.openAlarms, 0);
  return (
    <>
      <PageHead
        title="Rounds"
        who={`${user.name}, ${user.role}`}
        about={
          <>
            {rows.length} site{rows.length === 1 ? "" : "s"}, those that need someone first
            {openAlarms > 0 && (
              <>
                {" · "}
                <Link href="/alarms" className="font-semibold text-error underline underline-offset-2">
                  {openAlarms} open alarm{openAlarms === 1 ? "" : "s"}
                </Link>
              </>
            )}
          </>
        }
        tools={
          <>
            <Input
              ref={findBox}
              className="w-44"
              value={find}
              aria-label="Find a site"
              placeholder="Find a site"
              onChange={(e) => setFind(e.target.value)}
            />
            <GroupChoice rows={rows} value={within} onChange={setWithin} />
            <Select className="w-44" value={only} aria-label="Show" onChange={(e) => setOnly(e.target.value as Only)}>
              {ONLY.map(([id, words]) => (
                <option key={id} value={id}>
                  {words}
                </option>
              ))}
            </Select>
          </>
        }
        main={user.role === "viewer" ? undefined : <NewSite />}
      />
      <main className="px-4 pb-6">
        <InBrowser>
          <DataTable
            label="Sites"
            rows={shown}
            columns={made}
            idOf={(r) => r.id}
            selected={at}
            onSelect={setAt}
            onOpen={(r) => router.push(`/sites/${r.id}/night`)}
            empty={
              <p className="my-6">
                {rows.length === 0
                  ? "No site yet. Create one from nothing, or import a site file; then draw its waterworks."
                  : "No site matches. Clear the search or show all sites."}
              </p>
            }
          />
        </InBrowser>
      </main>
    </>
  );
}
