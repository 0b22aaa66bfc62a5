"use client";
import {
  BellRing,
  Cable,
  CalendarCheck,
  ClipboardCheck,
  Footprints,
  Gauge,
  GraduationCap,
  ListTodo,
  type LucideIcon,
  MessageSquareText,
  RotateCcw,
  Save,
  Send,
  Zap,
} from "lucide-react";
import Link from "next/link";
import { useMemo } from "react";
import { useTimeline } from "@/components/data/use-timeline";
import { useWorkspace } from "@/components/draft/site-draft";
import { isMonth, MonthStepper } from "@/components/frame/month-stepper";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { MultiSegments } from "@/components/kit/segments";
import { TakenAway } from "@/components/kit/taken-away";
import { timelineCsv } from "@/components/words/record-csv";
import { HEAD_WORDS, lineOf } from "@/components/words/timeline-words";
import {
  type Happened,
  isTimelineHead,
  TIMELINE_HEADS,
  type TimelineEntry,
  type TimelineHead,
} from "@/contracts/timeline";
import { localDate, localIso } from "@/core/dates/wall-time";

const ICONS: Record<Happened, LucideIcon> = {
  save: Save,
  send: Send,
  order: Zap,
  alarm: BellRing,
  deed: MessageSquareText,
  learning: GraduationCap,
  visit: ClipboardCheck,
  walk: Footprints,
  todo: ListTodo,
  due: CalendarCheck,
  meter: Gauge,
  counter: RotateCcw,
  wire: Cable,
};
const HEADS = Object.keys(TIMELINE_HEADS).filter(isTimelineHead);
const headsOf = (text: string): TimelineHead[] => HEADS.filter((h) => text.split(" ").includes(h));

/** Everything that happened to the site, newest first, a month at a time and by day: each leads to its place. */
export function Timeline() {
  const { siteId, draft, version } = useWorkspace("siteId", "draft", "version");
  const conventions = useConventions();
  const { day } = conventions;
  const { timeZone } = draft.site;
  const today = localDate(timeZone, Math.floor(Date.now() / 1000)).slice(0, 7);
  const [month, setMonth] = useScreenParam<string>("month", today, { fits: isMonth });
  const [only, setOnly] = useScreenParam<string>("only", "", { add: false });
  const heads = headsOf(only);
  const { entries, first, problem, more, whole } = useTimeline(siteId, version, month, heads);
  const days = useMemo(() => {
    const byDay = new Map<string, (TimelineEntry & { clock: string })[]>();
    for (const e of entries ?? []) {
      const local = localIso(timeZone, Math.floor(Date.parse(e.at) / 1000));
      const on = local.slice(0, 10);
      byDay.set(on, [...(byDay.get(on) ?? []), { ...e, clock: local.slice(11, 16) }]);
    }
    return [...byDay];
  }, [entries, timeZone]);
  const csv = async (): Promise<string> =>
    timelineCsv((await whole()).map((e) => ({ at: e.at, sort: e.sort, ...lineOf(e, { site: draft, conventions }) })));
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <MonthStepper month={month} today={today} last={today} {...(first ? { first } : {})} onMonth={setMonth} />
        <MultiSegments
          label="What is shown"
          options={HEADS.map((id) => ({ id, label: HEAD_WORDS[id] }))}
          on={heads}
          onChange={(on) => setOnly(on.join(" "))}
        />
        {heads.length > 0 && (
          <Button rank="quiet" onClick={() => setOnly("")}>
            Everything
          </Button>
        )}
      </div>
      {problem && <Problem>{problem}</Problem>}
      {!entries && !problem && <p role="status">Reading the timeline…</p>}
      {entries?.length === 0 && (
        <p className="text-faint">
          {heads.length > 0 ? "Nothing of this happened in this month." : "Nothing happened in this month."}
        </p>
      )}
      <ol aria-label="Timeline" className="max-w-5xl">
        {days.map(([date, happened]) => (
          <li key={date} className="grid grid-cols-[minmax(0,1fr)] gap-x-4 sm:grid-cols-[9rem_minmax(0,1fr)]">
            <h3 className="pt-1 font-semibold sm:text-right">{day(date)}</h3>
            <ol className="relative border-l-[10px] border-base-200 pb-4">
              {happened.map((e) => (
                <HappenedLine key={`${e.sort} ${e.told.ref}`} entry={e} clock={e.clock} />
              ))}
            </ol>
          </li>
        ))}
      </ol>
      <div className="flex flex-wrap gap-2">
        {more && <Button onClick={more}>Earlier in this month</Button>}
        {(entries?.length ?? 0) > 0 && <TakenAway csv={csv} name={`${fileStem(draft)}-timeline-${month}`} />}
      </div>
    </>
  );
}

function HappenedLine({ entry, clock }: { entry: TimelineEntry; clock: string }) {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const conventions = useConventions();
  const Icon = ICONS[entry.sort];
  const { title, words, open, place } = lineOf(entry, { site: draft, conventions });
  return (
    <li className="relative">
      <Link
        href={`/sites/${siteId}/${place}`}
        className="flex w-full items-baseline gap-3 py-1 pl-3 pr-2 text-left hover:bg-base-200"
      >
        <span className="w-11 shrink-0 tabular-nums text-faint">{clock}</span>
        <Icon className={classes("mt-1 size-4 shrink-0 self-start", open ? "text-error" : "text-faint")} aria-hidden />
        <span className="min-w-0">
          <span className={classes("font-semibold", open && "text-error")}>{title}</span>
          {open && <span className="text-error"> (open)</span>}
          {words !== "" && <span className="line-clamp-2 text-faint">{words}</span>}
        </span>
      </Link>
    </li>
  );
}
