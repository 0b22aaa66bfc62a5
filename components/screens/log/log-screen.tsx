"use client";
import { Download } from "lucide-react";
import { useCallback, useEffect } from "react";
import { RequestRefused } from "@/components/data/request";
import { useLogBook } from "@/components/data/use-log-book";
import { useChanges, useWorkspace } from "@/components/draft/site-draft";
import { useSiteLog } from "@/components/draft/site-log";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { ButtonLink } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Problem } from "@/components/kit/notice";
import { AlarmCard } from "@/components/screens/alarms/alarm-card";
import { ReadTogether } from "@/components/screens/alarms/read-together";
import type { Alarm } from "@/contracts/alarms";
import { localIso } from "@/core/dates/wall-time";
import { lockedIn } from "@/core/site-file/locks";
import { subjectName } from "@/core/judge/alarm-words";
import { Compare } from "./compare";
import { PaperView } from "./paper/paper-view";
import { RevisionList } from "./revision-list";
import { Timeline } from "./timeline";
import { TodoView } from "./visits/todo-view";
import { VisitsView } from "./visits/visits-view";
import { WaterView } from "./water-view";

const VIEWS = [
  { id: "timeline", label: "Timeline" },
  { id: "alarms", label: "Alarms" },
  { id: "visits", label: "Visits" },
  { id: "todo", label: "To do" },
  { id: "water", label: "Water" },
  { id: "revisions", label: "Revisions" },
  { id: "compare", label: "Compare" },
  { id: "paper", label: "Paper" },
] as const;
type View = (typeof VIEWS)[number]["id"];
/** These read nothing of the log book. */
const APART: ReadonlySet<View> = new Set(["timeline", "visits", "todo", "water", "paper"]);
const isView = oneOf(VIEWS);

/** What happened to the site: alarms with cause and clear, revisions with differences and putting back. Nothing is ever deleted. */
export function LogScreen() {
  const { siteId, draft, adopt, version, canEdit, isManager, units } = useWorkspace(
    "siteId",
    "draft",
    "adopt",
    "version",
    "canEdit",
    "isManager",
    "units",
  );
  const { setLog } = useSiteLog();
  const { date } = useConventions();
  const changes = useChanges();
  const { book, problem, act, putBack } = useLogBook(siteId, version);
  const [view, setView] = useScreenParam<View>("view", "timeline", { fits: isView });
  const [at] = useScreenParam<string>("at", "", { add: false });
  const open = book?.alarms.filter((a) => a.state !== "cleared").length ?? 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the setter is anew at each change of what it sets
  useEffect(() => {
    if (book) setLog({ openAlarms: open });
  }, [book, open]);
  const zone = draft.site.timeZone;
  const name = useCallback((id: string) => subjectName(draft, id), [draft]);
  const when = (iso: string): string => {
    const local = localIso(zone, Math.floor(Date.parse(iso) / 1000));
    return `${date(local.slice(0, 10))} ${local.slice(11, 16)}`;
  };
  const onAct = async (alarm: Alarm, body: unknown): Promise<boolean> => {
    try {
      const done = await act.mutateAsync({ alarmId: alarm.id, body });
      if (changes.length === 0 && done.version > version) adopt(done.file, done.version);
      return true;
    } catch {
      return false;
    }
  };
  const onPutBack = (to: number): void =>
    putBack.mutate({ to, from: version }, { onSuccess: (done) => adopt(done.file, done.version) });
  const refused = act.error ?? putBack.error;
  const stale = refused instanceof RequestRefused && refused.code === "staleVersion";
  return (
    <>
      <ScreenBar
        title="Log"
        views={VIEWS.map((v) => (v.id === "alarms" ? { ...v, count: open } : v))}
        at={view}
        onView={setView}
        tools={
          <ButtonLink rank="quiet" icon={Download} href={`/api/sites/${siteId}/file`} download>
            Export the site file
          </ButtonLink>
        }
      />
      {problem && <Problem className="mb-2">{problem}</Problem>}
      {refused && (
        <Problem className="mb-2">
          {refused.message} {stale ? "Reload the page to see it, then put back." : ""}
        </Problem>
      )}
      {!book && !problem && !APART.has(view) && <p role="status">Reading the log…</p>}
      {view === "timeline" && <Timeline />}
      {book && view === "alarms" && (
        <section aria-label="Alarms" className="max-w-5xl">
          {book.alarms.length === 0 && (
            <p className="text-faint">No alarm yet. Rehearse a night on the Bench and take it into the log.</p>
          )}
          <ReadTogether
            site={draft}
            alarms={book.alarms}
            canEdit={canEdit}
            onCause={async (ids, cause) => {
              for (const a of book.alarms.filter((x) => ids.includes(x.id) && x.state !== "cleared"))
                await onAct(a, { action: "cause", cause });
            }}
          />
          {book.alarms.map((a) => (
            <AlarmCard
              key={a.id}
              alarm={a}
              entries={book.entries.filter((e) => e.alarmId === a.id)}
              people={book.people}
              units={units}
              name={name}
              when={when}
              canEdit={canEdit}
              act={onAct}
              chosen={a.id === at}
            />
          ))}
        </section>
      )}
      {view === "visits" && <VisitsView />}
      {view === "todo" && <TodoView />}
      {view === "water" && <WaterView />}
      {view === "paper" && <PaperView />}
      {book && view === "compare" && <Compare siteId={siteId} revisions={book.revisions} when={when} />}
      {book && view === "revisions" && (
        <RevisionList
          revisions={book.revisions}
          inForce={version}
          chosen={/^\d+$/.test(at) ? Number(at) : null}
          when={when}
          onPutBack={isManager ? onPutBack : null}
          unsaved={changes.length > 0}
          locked={lockedIn(draft).map(name)}
        />
      )}
    </>
  );
}
