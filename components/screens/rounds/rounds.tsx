"use client";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { useAlarmNews } from "@/components/data/use-alarm-news";
import { PageHead } from "@/components/frame/page-head";
import { classes } from "@/components/kit/classes";
import { conventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { Input, Select } from "@/components/kit/inputs";
import { isTyping } from "@/components/kit/typing";
import { NightSketch } from "@/components/pictures/night-sketch";
import { RULE_WORDS } from "@/components/words/rule-words";
import type { RoundsRow } from "@/contracts/rounds";
import { NewSite } from "./new-site";

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
  if (row.why.length === 0) return <span className="text-faint">nothing today</span>;
  return row.why.map((w, n) => (
    <span key={w} className={classes("block", row.urgency >= 100 && n === 0 && "font-semibold text-error")}>
      {w}
    </span>
  ));
}

function columns(): Column<RoundsRow>[] {
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
          {r.oldestLearned ? (
            conventions(r.units).date(r.oldestLearned.slice(0, 10))
          ) : (
            <span className="text-faint">never</span>
          )}
          {r.unlearned > 0 && <div className="text-xs text-warning">{r.unlearned} not learned</div>}
        </>
      ),
    },
  ];
}

/** All sites, those that need someone today first. */
export function Rounds({ rows, user }: { rows: RoundsRow[]; user: { name: string; role: string } }) {
  const [find, setFind] = useState("");
  const [only, setOnly] = useState<Only>("all");
  const [at, setAt] = useState<string | null>(null);
  const router = useRouter();
  const findBox = useRef<HTMLInputElement>(null);
  useAlarmNews(() => router.refresh());
  const shown = useMemo(
    () => rows.filter((r) => r.name.toLowerCase().includes(find.toLowerCase()) && PASSES[only](r)),
    [rows, find, only],
  );
  const made = useMemo(columns, []);
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
      </main>
    </>
  );
}
