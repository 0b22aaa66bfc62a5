"use client";
import { CircleDot, MessageSquareText, Save } from "lucide-react";
import { useMemo } from "react";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { StoneIcon } from "@/components/kit/icons";
import { ACTION_WORDS, KIND_WORDS } from "@/components/words/alarm-words";
import type { LogBook } from "@/contracts/log";
import { localIso } from "@/core/dates/wall-time";

type Happening = {
  key: string;
  /** On the site's own clock. */
  at: string;
  sort: "save" | "alarm" | "deed";
  title: string;
  words: string;
  open: boolean;
  onOpen: () => void;
};

const ICONS = { save: Save, deed: MessageSquareText };
const DAYS_SHOWN = 60;

/** Everything that happened to the site, newest first, by day: saves, alarms, and what was done about them. */
export function Timeline({
  book,
  timeZone,
  name,
  onRevision,
  onAlarm,
}: {
  book: LogBook;
  timeZone: string;
  name: (id: string) => string;
  onRevision: (version: number) => void;
  onAlarm: (id: string) => void;
}) {
  const { day } = useConventions();
  const days = useMemo(() => {
    const local = (iso: string): string => localIso(timeZone, Math.floor(Date.parse(iso) / 1000));
    const about = new Map(book.alarms.map((a) => [a.id, a]));
    const all: Happening[] = [
      ...book.revisions.map((r) => ({
        key: `r${r.version}`,
        at: local(r.madeAt),
        sort: "save" as const,
        title: `Revision ${r.version}, ${r.madeByName}`,
        words: [
          ...new Set([r.note, r.changes[0]?.words, r.changes.length > 1 ? `and ${r.changes.length - 1} more` : ""]),
        ]
          .filter(Boolean)
          .join("; "),
        open: false,
        onOpen: () => onRevision(r.version),
      })),
      ...book.alarms.map((a) => ({
        key: `a${a.id}`,
        at: local(a.at),
        sort: "alarm" as const,
        title: `${a.rehearsed ? "rehearsed, " : ""}${KIND_WORDS[a.kind] ?? a.kind}: ${name(a.subjectId)}`,
        words: a.message,
        open: a.state !== "cleared",
        onOpen: () => onAlarm(a.id),
      })),
      ...book.entries.map((e) => ({
        key: `e${e.id}`,
        at: local(e.at),
        sort: "deed" as const,
        title: `${e.madeByName} ${ACTION_WORDS[e.action] ?? e.action} ${e.words}`.trim(),
        words: `on ${KIND_WORDS[about.get(e.alarmId)?.kind ?? ""] ?? "an alarm"}: ${name(about.get(e.alarmId)?.subjectId ?? "")}`,
        open: false,
        onOpen: () => onAlarm(e.alarmId),
      })),
    ].sort((a, b) => b.at.localeCompare(a.at));
    const byDay = new Map<string, Happening[]>();
    for (const h of all) byDay.set(h.at.slice(0, 10), [...(byDay.get(h.at.slice(0, 10)) ?? []), h]);
    return [...byDay].slice(0, DAYS_SHOWN);
  }, [book, timeZone, name, onRevision, onAlarm]);
  if (days.length === 0) return <p className="text-faint">Nothing has happened yet.</p>;
  return (
    <ol className="max-w-5xl">
      {days.map(([date, happenings]) => (
        <li key={date} className="grid gap-x-4 sm:grid-cols-[9rem_minmax(0,1fr)]">
          <h3 className="pt-1 font-semibold sm:text-right">{day(date)}</h3>
          <ol className="relative border-l-[10px] border-base-200 pb-4">
            {happenings.map((h) => (
              <Happened key={h.key} happening={h} />
            ))}
          </ol>
        </li>
      ))}
    </ol>
  );
}

function Happened({ happening: h }: { happening: Happening }) {
  const Icon = h.sort === "alarm" ? null : ICONS[h.sort];
  return (
    <li className="relative">
      <Button
        rank="bare"
        className="flex w-full cursor-pointer items-baseline gap-3 py-1 pl-3 pr-2 text-left hover:bg-base-200"
        onClick={h.onOpen}
      >
        <span className="w-11 shrink-0 tabular-nums text-faint">{h.at.slice(11, 16)}</span>
        {Icon ? (
          <Icon className="size-4 shrink-0 self-center text-faint" aria-hidden />
        ) : (
          <StoneIcon className={classes("size-4 shrink-0 self-center", h.open && "text-error")} />
        )}
        <span className="min-w-0">
          <span className={classes("font-semibold", h.open && "text-error")}>{h.title}</span>
          {h.open && <span className="text-error"> (open)</span>}
          {h.words !== "" && <span className="block truncate text-faint">{h.words}</span>}
        </span>
      </Button>
    </li>
  );
}

/** Which revision is in force. */
export function InForce() {
  return (
    <span className="inline-flex items-center gap-1 font-semibold">
      <CircleDot className="size-4" aria-hidden /> in force
    </span>
  );
}
