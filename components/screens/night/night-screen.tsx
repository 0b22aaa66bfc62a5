"use client";
import { Download, Table2, ZoomIn, ZoomOut } from "lucide-react";
import dynamic from "next/dynamic";
import { useEffect, useMemo, useState } from "react";
import { useNight, useNightState, useWorkspace } from "@/components/draft/site-draft";
import { NightStepper } from "@/components/frame/night-stepper";
import { ScreenBar } from "@/components/frame/screen-bar";
import { useNightDate } from "@/components/frame/use-night-date";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button, IconButton } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { WithInspector } from "@/components/kit/inspector";
import { Menu } from "@/components/kit/menu";
import { Mark, Problem } from "@/components/kit/notice";
import { isTyping } from "@/components/kit/typing";
import { useWidth } from "@/components/kit/use-width";
import { Braid } from "@/components/pictures/braid/braid";
import { type BraidRun, braidOf, noEarlierThan, runKey } from "@/components/pictures/braid/braid-data";
import { ProgramKey } from "@/components/pictures/braid/program-key";
import { usePxPerMinute } from "@/components/pictures/braid/use-px-per-minute";
import { weatherPercent } from "@/core/calendar/run-time";
import { addDays } from "@/core/dates/wall-time";
import { duePrograms, siteHold } from "@/core/dispatch/queue";
import { startsOn } from "@/core/site-file/starts";
import { warningLines } from "@/core/dispatch/night-words";
import { showNumber } from "@/core/units/units";
import { Moment, Selected } from "./moment";
import { SaveNight } from "./save-night";

const BetterPanel = dynamic(() => import("./better-panel").then((m) => m.BetterPanel));
const LastNight = dynamic(() => import("./last-night").then((m) => m.LastNight));
const MonthView = dynamic(() => import("./month-view").then((m) => m.MonthView));
const RunTable = dynamic(() => import("./run-table").then((m) => m.RunTable));
const WatchPanel = dynamic(() => import("./watch-panel").then((m) => m.WatchPanel));
const WhatIf = dynamic(() => import("./what-if").then((m) => m.WhatIf));

type View = "braid" | "last" | "weeks" | "whatif" | "better" | "watch";
const VIEWS = [
  { id: "braid", label: "Braid" },
  { id: "last", label: "Last night" },
  { id: "weeks", label: "Six weeks" },
  { id: "whatif", label: "What if" },
  { id: "better", label: "Better night" },
  { id: "watch", label: "Watchable night" },
] as const;
const isView = oneOf(VIEWS);

/** What stands above and below the braid, and the least height it is drawn at, px. */
const ROOM = { aroundPx: 340, leastPx: 490 };

/** The night as the controller will really do it, any date. */
export function NightScreen() {
  const { draft } = useWorkspace("draft");
  const [date, setDate] = useNightDate();
  const [view, setView] = useScreenParam<View>("view", "braid", { fits: isView });
  const [as, setAs] = useScreenParam<"picture" | "table">("as", "picture");
  const [zoom, setZoom] = useState<number | null>(null);
  const night = useNight();
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === "t" && !isTyping(e) && !e.ctrlKey) setAs(as === "table" ? "picture" : "table");
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [as, setAs]);
  const data = useMemo(
    () => (night ? braidOf(draft, night.plan.runs, night.moments, date) : null),
    [night, draft, date],
  );
  const fitting = usePxPerMinute(data, ROOM);
  const pxPerMinute = zoom ?? fitting;
  return (
    <>
      <ScreenBar
        title="Night"
        views={VIEWS}
        at={view}
        onView={setView}
        tools={
          <>
            {view !== "last" && <NightStepper date={date} onDate={setDate} />}
            {view === "braid" && (
              <>
                <Button
                  rank="quiet"
                  icon={Table2}
                  aria-pressed={as === "table"}
                  onClick={() => setAs(as === "table" ? "picture" : "table")}
                >
                  {as === "table" ? "Picture" : "Table"}
                </Button>
                <IconButton label="Longer" icon={ZoomIn} onClick={() => setZoom(Math.min(8, pxPerMinute * 1.4))} />
                <IconButton label="Shorter" icon={ZoomOut} onClick={() => setZoom(Math.max(0.3, pxPerMinute / 1.4))} />
              </>
            )}
            {view !== "last" && data && night && (
              <Menu label="Take out" icon={Download} end>
                {(close) => <SaveNight data={data} night={night} onDone={close} />}
              </Menu>
            )}
          </>
        }
        main={
          view === "braid" ? (
            <Button rank="main" onClick={() => setView("better")}>
              Find a better night
            </Button>
          ) : undefined
        }
      />
      {view === "last" && <LastNight />}
      {view === "better" && <BetterPanel onClose={() => setView("braid")} />}
      {view === "watch" && <WatchPanel />}
      {view === "whatif" && <WhatIf />}
      {view === "weeks" && (
        <MonthView
          onPick={(d) => {
            setDate(d);
            setView("braid");
          }}
        />
      )}
      {view !== "weeks" && view !== "last" && (
        <OneNight data={data} pxPerMinute={pxPerMinute} asTable={as === "table"} onDate={setDate} />
      )}
    </>
  );
}

function OneNight({
  data,
  pxPerMinute,
  asTable,
  onDate,
}: {
  data: ReturnType<typeof braidOf>;
  pxPerMinute: number;
  asTable: boolean;
  onDate: (date: string) => void;
}) {
  const { draft, units } = useWorkspace("draft", "units");
  const { status, why, answer: night } = useNightState();
  const [selected, setSelected] = useState<BraidRun | null>(null);
  const [waterline, setWaterline] = useState<number | null>(null);
  const { box, width } = useWidth(900);
  // A run of another night is not selected any more.
  const chosen = selected && night?.plan.runs.some((r) => runKey(r) === runKey(selected)) ? selected : null;
  const at = data ? Math.max(data.from, Math.min(data.to, waterline ?? data.from + (data.to - data.from) / 3)) : 0;
  return (
    <>
      <NightWords />
      <WithInspector
        label="At the waterline"
        inspector={
          data &&
          night && (
            <>
              {chosen && <Selected run={chosen} />}
              <Moment at={at} runs={night.plan.runs} moments={night.moments} />
            </>
          )
        }
      >
        <div ref={box} className="min-w-0 overflow-x-auto" tabIndex={-1}>
          {status === "failed" && <Problem>The night could not be worked out: {why}</Problem>}
          {!night && status === "working" && <p role="status">Working out the night…</p>}
          {night && !data && <NothingRuns onDate={onDate} />}
          {data && night && !asTable && (
            <Braid
              site={draft}
              data={data}
              units={units}
              width={width}
              pxPerMinute={pxPerMinute}
              noEarlierThan={noEarlierThan(night.plan)}
              selected={chosen ? runKey(chosen) : null}
              onSelect={setSelected}
              waterline={at}
              onWaterline={setWaterline}
            />
          )}
          {data && night && asTable && <RunTable runs={night.plan.runs} onSelect={setSelected} />}
          {data && night && !asTable && <ProgramKey runs={night.plan.runs} />}
        </div>
      </WithInspector>
    </>
  );
}

/** How much, how long, against the bound; what is short and what to know. */
function NightWords() {
  const { draft, date } = useWorkspace("draft", "date");
  const { quantity, clock } = useConventions();
  const night = useNight();
  const percent = weatherPercent(draft, date);
  if (!night) return null;
  const { plan } = night;
  const station = (id: string): string => String(draft.stations.find((x) => x.id === id)?.number);
  const short = plan.shortfalls
    .slice(0, 6)
    .map((s) => `station ${station(s.stationId)} by ${showNumber(s.minutes, 1)} min`);
  const more = plan.shortfalls.length - short.length;
  return (
    <div className="mb-3">
      {plan.finish && (
        <p className="text-faint">
          {plan.runs.length} runs, {quantity(night.summary.litres, "volume")}; ends{" "}
          <strong className="text-base-content">{clock(plan.finish, date)}</strong>, {showNumber(plan.makespanS / 60)}{" "}
          min long.
          {plan.lateStartBoundS > 0 && (
            <>
              {" "}
              No order could take less than {showNumber(plan.lateStartBoundS / 60)} min
              {plan.lateStartBoundS > plan.lowerBoundS + 1 ? ", for what starts later" : ""}:{" "}
              <strong className="text-base-content">{(plan.makespanS / plan.lateStartBoundS).toFixed(2)} ×</strong> the
              bound.
            </>
          )}
          {percent !== undefined && (
            <strong className="text-warning">
              {" "}
              <Mark tone="caution" /> The weather makes it {showNumber(percent)} %.
            </strong>
          )}
        </p>
      )}
      <Warnings lines={warningLines(draft, plan.warnings)} />
      {short.length > 0 && (
        <p className="font-semibold text-error">
          <Mark tone="alarm" /> Left unwatered: {short.join(", ")}
          {more > 0 ? ` and ${more} more` : ""}.
        </p>
      )}
    </div>
  );
}

const SHOWN_WARNINGS = 3;

function Warnings({ lines }: { lines: string[] }) {
  if (lines.length === 0) return null;
  const item = (words: string) => (
    <li key={words}>
      <Mark tone="caution" /> {words}
    </li>
  );
  return (
    <div className="text-warning">
      <ul>{lines.slice(0, SHOWN_WARNINGS).map(item)}</ul>
      {lines.length > SHOWN_WARNINGS && (
        <details>
          <summary className="cursor-pointer">and {lines.length - SHOWN_WARNINGS} more</summary>
          <ul>{lines.slice(SHOWN_WARNINGS).map(item)}</ul>
        </details>
      )}
    </div>
  );
}

const NEXT_DAYS = 60;

/** Why nothing waters on this date, and the next night that does. */
function NothingRuns({ onDate }: { onDate: (date: string) => void }) {
  const { draft, date } = useWorkspace("draft", "date");
  const conventions = useConventions();
  const hold = siteHold(draft, date);
  const next = useMemo(() => {
    const days = Array.from({ length: NEXT_DAYS }, (_, i) => addDays(date, i + 1));
    const waters = (d: string): boolean =>
      duePrograms(draft, d).some(
        ({ program }) => startsOn(program).length > 0 && program.runs.some((r) => r.minutes > 0),
      );
    return days.find((d) => !siteHold(draft, d) && waters(d));
  }, [date, draft]);
  return (
    <div className="my-6 max-w-prose">
      <p>
        {hold === "indefinite" &&
          "The site is off with no end set. Nothing waters until someone ends the hold on Programs."}
        {hold === "until" && `The site is held until ${conventions.date(draft.site.holdUntil ?? date)}.`}
        {!hold &&
          (draft.programs.length === 0
            ? "No program yet: write one on Programs, and its night appears here."
            : "Nothing runs on this date.")}
      </p>
      {next && (
        <Button className="mt-2" onClick={() => onDate(next)}>
          Show the next night that waters, {conventions.date(next)}
        </Button>
      )}
    </div>
  );
}
