"use client";
import dynamic from "next/dynamic";
import Link from "next/link";
import { usePathname, useRouter, useSearchParams } from "next/navigation";
import { useEffect, useMemo, useState } from "react";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { type FirstRounds, useRounds } from "@/components/data/use-rounds";
import { useSitesNow } from "@/components/data/use-rounds-live";
import { PageHead } from "@/components/frame/page-head";
import { SavedViews } from "@/components/frame/saved-views";
import { Branches } from "@/components/kit/branches";
import { classes } from "@/components/kit/classes";
import { DataTable } from "@/components/kit/data-table";
import { TickField } from "@/components/kit/fields";
import { InBrowser } from "@/components/kit/in-browser";
import { Menu } from "@/components/kit/menu";
import { Problem } from "@/components/kit/notice";
import { Pager } from "@/components/kit/pager";
import { isTyping } from "@/components/kit/typing";
import { askedOfRounds, MOST_FIRST, type RoundsPage, type RoundsSort, roundsQuery } from "@/contracts/rounds";
import { CHOICE_COLUMNS, type ChoiceColumn, columns, USUAL_COLUMNS } from "./columns";
import { Finding } from "./finding";
import { NewSite } from "./new-site";

/** The columns that the address names; the usual ones where it names none. */
function chosenColumns(named: string | null): Set<ChoiceColumn> {
  if (named === null) return new Set(USUAL_COLUMNS);
  const asked = new Set(named.split(","));
  return new Set(CHOICE_COLUMNS.flatMap(([id]) => (asked.has(id) ? [id] : [])));
}

const sitesFound = (found: number, all: number): string =>
  found === all ? `${all} site${all === 1 ? "" : "s"}` : `${found} of ${all} sites`;

const VIEWS = [
  { id: "list", label: "List" },
  { id: "places", label: "By position" },
] as const;
const SitePlaces = dynamic(() => import("./site-places").then((m) => m.SitePlaces), { ssr: false });
const NOTHING: RoundsPage = { rows: [], found: 0, all: 0, openAlarms: 0, pageSize: 50 };

function nothingWords(page: RoundsPage | null): string {
  if (!page) return "Reading the sites…";
  return page.all === 0
    ? "No site yet. Create one from nothing, or import a site file; then draw its waterworks."
    : "No site matches. Clear the search or show all sites.";
}

/** Going through the table from the keyboard begins with its first row. */
function useRowKeys(): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (isTyping(e) || e.ctrlKey || (e.key !== "j" && e.key !== "k")) return;
      const row = document.querySelector<HTMLElement>('tr[data-row][tabindex="0"]');
      if (document.activeElement !== row) row?.focus();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}

/** All sites, those that need someone today first: found, sorted and shown as the address says, which may be kept as a view. */
export function Rounds({
  user,
  first = null,
}: {
  user: { name: string; role: string };
  /** What came with the page. */
  first?: FirstRounds | null;
}) {
  const [at, setAt] = useState<string | null>(null);
  const router = useRouter();
  const path = usePathname();
  const params = useSearchParams();
  const query = roundsQuery.parse(Object.fromEntries(params));
  const { page, asking, problem, again } = useRounds(askedOfRounds(params), first);
  useAlarmNews(again);
  useRowKeys();
  const sites = useSitesNow(again);
  const cols = params.get("cols");
  const shown = useMemo(() => chosenColumns(cols), [cols]);
  const view = params.get("view") === "places" ? "places" : "list";
  const made = useMemo(() => columns(sites, shown), [sites, shown]);
  /** Another question begins on its first page; what is usual is left out of the address. */
  const ask = (changes: Record<string, string>): void => {
    const next = new URLSearchParams(window.location.search);
    for (const [key, value] of Object.entries({ page: "", ...changes }))
      if (value === "" || value === "all") next.delete(key);
      else next.set(key, value);
    window.history.replaceState(null, "", next.size === 0 ? path : `${path}?${next}`);
  };
  const { rows, found, all, openAlarms, pageSize } = page ?? NOTHING;
  return (
    <>
      <PageHead
        title="Rounds"
        who={`${user.name}, ${user.role}`}
        views={
          <Branches
            label="Views of Rounds"
            views={VIEWS}
            at={view}
            onChange={(to) => ask({ view: to === "list" ? "" : to })}
          />
        }
        about={
          <>
            {page && (query.only === "archived" ? `${found} archived` : sitesFound(found, all))}
            {query.sort === "need" && !query.turned && ", those that need someone first"}
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
            <Finding query={query} within={params.get("within") ?? ""} onFind={ask} />
            {view === "list" && (
              <Menu label="Columns">
                {() =>
                  CHOICE_COLUMNS.map(([id, words]) => (
                    <TickField
                      key={id}
                      label={words}
                      checked={shown.has(id)}
                      onCommit={(on) => {
                        const next = CHOICE_COLUMNS.filter(([c]) => (c === id ? on : shown.has(c))).map(([c]) => c);
                        ask({ cols: next.join(",") === USUAL_COLUMNS.join(",") ? "" : next.join(",") || "none" });
                      }}
                    />
                  ))
                }
              </Menu>
            )}
            <SavedViews screen="rounds" />
          </>
        }
        main={user.role === "viewer" ? undefined : <NewSite />}
      />
      <main className={classes("px-4 pb-6", asking && "opacity-60")} aria-busy={asking || !page}>
        {problem && <Problem>{problem}</Problem>}
        {view === "places" ? (
          <SitePlaces asked={askedOfRounds(params)} onOpen={(id) => router.push(`/sites/${id}/night`)} />
        ) : (
          <InBrowser>
            <DataTable
              label="Sites"
              rows={rows}
              columns={made}
              idOf={(r) => r.id}
              selected={at}
              onSelect={setAt}
              onOpen={(r) => router.push(`/sites/${r.id}/night`)}
              sorting={[{ id: query.sort, desc: MOST_FIRST.has(query.sort) !== query.turned }]}
              onSort={([by]) => {
                if (!by) return;
                const sort = by.id as RoundsSort;
                ask({
                  sort: sort === "need" ? "" : sort,
                  turned: by.desc === MOST_FIRST.has(sort) ? "" : "1",
                });
              }}
              empty={
                <p className="my-6" role="status">
                  {nothingWords(page)}
                </p>
              }
            />
            <Pager page={query.page} pageSize={pageSize} found={found} onPage={(n) => ask({ page: String(n) })} />
          </InBrowser>
        )}
      </main>
    </>
  );
}
