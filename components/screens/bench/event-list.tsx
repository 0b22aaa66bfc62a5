"use client";
import { useMemo } from "react";
import { classes } from "@/components/kit/classes";
import { type Column, DataTable } from "@/components/kit/data-table";
import { TickField } from "@/components/kit/fields";
import { seconds } from "@/components/pictures/braid/braid-data";
import { EVENT_WORDS, reasonWords } from "@/components/words/event-words";
import type { Simulation } from "@/core/bench/simulate";
import { subjectName } from "@/core/judge/alarm-words";
import type { SiteFile } from "@/core/site-file/schema";

export type BenchEvent = Simulation["events"][number] & { key: string };

const ORDINARY = new Set(["open", "close", "masterValveOpen", "masterValveShut", "pumpOn", "pumpOff"]);
const LOUD = new Set(["alarm", "lockedOut", "stopped"]);

export const eventsOf = (night: Simulation, onlyMatters: boolean): BenchEvent[] =>
  night.events.map((e, i) => ({ ...e, key: `${i}` })).filter((e) => !onlyMatters || !ORDINARY.has(e.type));

/** What happened, second by second, each with its reason; a row moves the waterline there. */
export function EventList({
  site,
  events,
  at,
  onlyMatters,
  onOnlyMatters,
  onAt,
}: {
  site: SiteFile;
  events: BenchEvent[];
  at: number;
  onlyMatters: boolean;
  onOnlyMatters: (only: boolean) => void;
  onAt: (at: number) => void;
}) {
  const columns = useMemo(
    (): Column<BenchEvent>[] => [
      { id: "at", header: "At", accessorFn: (e) => e.at, cell: ({ row }) => row.original.at.slice(11, 19) },
      {
        id: "what",
        header: "What",
        accessorFn: (e) => e.type,
        cell: ({ row: { original: e } }) => (
          <>
            <span className={classes(LOUD.has(e.type) && "font-semibold text-error")}>
              {EVENT_WORDS[e.type] ?? e.type}
            </span>{" "}
            {subjectName(site, e.subjectId)}
            {e.reason && <span className="text-faint"> {reasonWords(e)}</span>}
          </>
        ),
      },
    ],
    [site],
  );
  const here = events.find((e) => seconds(e.at) === at)?.key ?? null;
  return (
    <section aria-label="Events">
      <div className="flex items-center justify-between gap-4">
        <h3 className="text-lg">Events</h3>
        <TickField label="only what matters" checked={onlyMatters} onCommit={onOnlyMatters} />
      </div>
      <DataTable
        label="Events"
        className="max-h-[32rem]"
        rows={events}
        columns={columns}
        idOf={(e) => e.key}
        selected={here}
        onSelect={(key) => {
          const event = events.find((e) => e.key === key);
          if (event) onAt(seconds(event.at));
        }}
        empty={<p className="py-1">Nothing but valves in their turn.</p>}
      />
    </section>
  );
}

/** The next event after, or before, a moment; where there is none, the last or first. */
export function eventBeside(events: readonly BenchEvent[], now: number, step: 1 | -1): number | null {
  const times = events.map((e) => seconds(e.at));
  if (step > 0) return times.find((t) => t > now) ?? times.at(-1) ?? null;
  return [...times].reverse().find((t) => t < now) ?? times[0] ?? null;
}
