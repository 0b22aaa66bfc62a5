"use client";
import { RefreshCw } from "lucide-react";
import Link from "next/link";
import { useEffect, useMemo, useState } from "react";
import { type Line, useAllControllers } from "@/components/data/use-controllers";
import { handedOver, handOver } from "@/components/data/handed-over";
import { PageHead } from "@/components/frame/page-head";
import { Button } from "@/components/kit/button";
import { type Column, DataTable } from "@/components/kit/data-table";
import { ChoiceField } from "@/components/kit/fields";
import { InBrowser } from "@/components/kit/in-browser";
import { Checkbox } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { SEND_WORDS } from "@/components/words/order-words";
import { LearnMany } from "./learn-many";
import { HowFar } from "@/components/frame/how-far";
import { placesOf, SendMany } from "./many";
import {
  type ControllerFinding,
  controllerFindings,
  controllerFindingWords,
  lasted,
} from "@/core/field/controller-findings";

type Only = "all" | "finding" | "differ" | "there" | "silent";
const ONLY: [Only, string][] = [
  ["all", "all controllers"],
  ["finding", "with a finding"],
  ["differ", "that differ"],
  ["there", "changed at the controller"],
  ["silent", "silent"],
];

const minutesSince = (iso: string): number => (Date.now() - Date.parse(iso)) / 60_000;
const findings = (l: Line): ControllerFinding[] => controllerFindings(l, Date.now());
const PASSES: Record<Only, (l: Line) => boolean> = {
  all: () => true,
  finding: (l) => findings(l).length > 0,
  differ: (l) => (l.differs ?? 0) > 0,
  there: (l) => l.byHand > 0,
  silent: (l) => findings(l).some((f) => f.code === "silent"),
};

const SPEAKS = { none: "no gateway", listenOnly: "listens only", orders: "" } as const;

/** Every controller of every site: what differs, what is on its way, whose clock is wrong, who is silent. */
export function AllControllers({ who, canEdit, isManager }: { who: string; canEdit: boolean; isManager: boolean }) {
  const all = useAllControllers();
  const { lines, readBackAt, problem, busy } = all;
  const [only, setOnly] = useState<Only>("all");
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  // Sites that were ticked elsewhere are gone on with here, once their controllers are known.
  const known = lines !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when they are known
  useEffect(() => {
    if (!known) return;
    const theirs = lines.filter((l) => handedOver().has(l.siteId) && l.speaks === "orders");
    if (theirs.length > 0) setTicked(new Set(theirs.map(idOf)));
    handOver(new Set());
  }, [known]);
  const shown = useMemo(
    () =>
      (lines ?? [])
        .filter(PASSES[only])
        .sort((a, b) => findings(b).length - findings(a).length || a.siteName.localeCompare(b.siteName)),
    [lines, only],
  );
  const chosen = (lines ?? []).filter((l) => ticked.has(idOf(l)) && l.speaks === "orders");
  const found = (lines ?? []).filter((l) => findings(l).length > 0).length;
  const columns = useMemo(() => columnsFor(ticked, setTicked, canEdit), [ticked, canEdit]);
  const reached = (lines ?? []).filter((l) => l.speaks === "orders");
  const untick = (): void => setTicked(new Set());
  return (
    <>
      <PageHead
        title="Controllers"
        who={who}
        about={lines ? `${lines.length} on all sites, ${found} with a finding` : undefined}
        tools={
          canEdit && (
            <>
              <Button
                rank="quiet"
                icon={RefreshCw}
                disabled={busy || reached.length === 0}
                onClick={() =>
                  void all.readBack(placesOf(chosen.length > 0 ? chosen : reached).map((place) => place.siteId))
                }
              >
                Read back {chosen.length > 0 ? "the ticked" : "all"}
              </Button>
              <LearnMany
                chosen={chosen}
                disabled={busy}
                onLearn={(places, what) => void all.learn(places, what).then(untick)}
              />
            </>
          )
        }
        main={
          canEdit && (
            <SendMany chosen={chosen} disabled={busy} onSend={(places) => void all.send(places).then(untick)} />
          )
        }
      />
      <main className="px-4 pb-8">
        {problem && <Problem className="mb-2">{problem}</Problem>}
        {all.many && <HowFar many={all.many} onStop={all.stop} />}
        <div className="mb-3 flex flex-wrap items-end gap-4">
          <ChoiceField label="Show" className="w-64" value={only} options={ONLY} onCommit={setOnly} />
          {isManager && (
            <TimeField label="Read back nightly" required value={readBackAt} onCommit={(v) => v && all.setHour(v)} />
          )}
        </div>
        <InBrowser>
          <DataTable
            label="Controllers of all sites"
            rows={shown}
            columns={columns}
            idOf={idOf}
            empty="None of these."
          />
        </InBrowser>
      </main>
    </>
  );
}

const idOf = (l: Line): string => `${l.siteId} ${l.controllerId}`;

function columnsFor(
  ticked: ReadonlySet<string>,
  setTicked: (next: ReadonlySet<string>) => void,
  canEdit: boolean,
): Column<Line>[] {
  const tick: Column<Line> = {
    id: "tick",
    header: "",
    enableSorting: false,
    cell: ({ row: { original: l } }) => (
      <Checkbox
        aria-label={`${l.siteName}, ${l.controllerName}`}
        disabled={l.speaks !== "orders"}
        checked={ticked.has(idOf(l))}
        onChange={(e) => {
          const next = new Set(ticked);
          if (e.target.checked) next.add(idOf(l));
          else next.delete(idOf(l));
          setTicked(next);
        }}
      />
    ),
  };
  return [
    ...(canEdit ? [tick] : []),
    {
      id: "site",
      header: "Site and controller",
      accessorFn: (l) => `${l.siteName} ${l.controllerName}`,
      cell: ({ row: { original: l } }) => (
        <>
          <Link className="font-semibold underline-offset-2 hover:underline" href={`/sites/${l.siteId}/controllers`}>
            {l.siteName}
          </Link>
          <div className="text-xs text-faint">{l.controllerName}</div>
        </>
      ),
    },
    {
      id: "finding",
      header: "Needs someone for",
      accessorFn: (l) => -findings(l).length,
      cell: ({ row: { original: l } }) => {
        const found = findings(l);
        if (l.speaks !== "orders") return <span className="text-faint">{SPEAKS[l.speaks]}</span>;
        return found.length === 0 ? (
          <span className="text-faint">nothing</span>
        ) : (
          found.map((f) => (
            <span key={f.code} className="block text-warning">
              {controllerFindingWords(f)}
            </span>
          ))
        );
      },
    },
    {
      id: "differs",
      header: "Differ",
      meta: { numeric: true },
      accessorFn: (l) => l.differs ?? -1,
      cell: ({ row: { original: l } }) => l.differs ?? <span className="text-faint">–</span>,
    },
    {
      id: "read",
      header: "Read back",
      meta: { className: "max-sm:hidden" },
      accessorFn: (l) => l.readAt ?? "",
      cell: ({ row: { original: l } }) =>
        l.readAt ? `${lasted(minutesSince(l.readAt))} ago` : <span className="text-faint">never</span>,
    },
    {
      id: "send",
      header: "Last send",
      meta: { className: "max-sm:hidden" },
      accessorFn: (l) => l.send?.askedAt ?? "",
      cell: ({ row: { original: l } }) =>
        l.send ? (
          `${SEND_WORDS[l.send.state]}, ${lasted(minutesSince(l.send.askedAt))} ago`
        ) : (
          <span className="text-faint">none</span>
        ),
    },
    {
      id: "heard",
      header: "Gateway",
      meta: { className: "max-sm:hidden" },
      accessorFn: (l) => l.heardAt ?? "",
      cell: ({ row: { original: l } }) => (l.state === null ? <span className="text-faint">none</span> : l.state),
    },
  ];
}
