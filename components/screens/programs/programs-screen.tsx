"use client";
import { CopyPlus, Plus } from "lucide-react";
import dynamic from "next/dynamic";
import { addProgram, copyProgram } from "@/components/draft/program-edits";
import { useWorkspace } from "@/components/draft/site-draft";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button, ButtonLink } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { Menu } from "@/components/kit/menu";
import { isHeld } from "@/core/calendar/due";
import { daysWords } from "@/core/dates/day-rules";
import { patternOfProgram } from "@/core/site-file/copies";
import { manyHref } from "@/components/draft/many-href";
import type { Program } from "@/core/site-file/schema";
import { startsWords } from "@/core/site-file/starts";
import { ProgramFindings, ProgramHow, ProgramWhen } from "./program-settings";
import { RunMatrix } from "./run-matrix";
import { SiteWide } from "./site-wide";

const AllPrograms = dynamic(() => import("./all-programs").then((m) => m.AllPrograms));
const OneOffPanel = dynamic(() => import("./one-off-panel").then((m) => m.OneOffPanel));
const SetupSheetView = dynamic(() => import("./setup-sheet").then((m) => m.SetupSheetView));

type View = "programs" | "all" | "site" | "once" | "sheet";
const VIEWS = [
  { id: "programs", label: "Programs" },
  { id: "all", label: "Calendar of all" },
  { id: "site", label: "Site and weather" },
  { id: "once", label: "One-off run" },
  { id: "sheet", label: "Setup sheet" },
] as const;
const isView = oneOf(VIEWS);

/** Which stations run, for how long, on which days and at what hours. */
export function ProgramsScreen() {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const [view, setView] = useScreenParam<View>("view", "programs", { fits: isView });
  const [at, setAt] = useScreenParam<string>("at", "");
  const program = draft.programs.find((p) => p.id === at) ?? draft.programs[0];
  const add = (): void => {
    const made = addProgram(draft);
    edit(() => made.file);
    setAt(made.id);
  };
  return (
    <>
      <ScreenBar
        title="Programs"
        views={VIEWS}
        at={view}
        onView={setView}
        tools={view === "programs" && canEdit && program ? <CopyMenu program={program} onCopied={setAt} /> : undefined}
        main={
          view === "programs" && canEdit ? (
            <Button rank="main" icon={Plus} onClick={add} disabled={draft.controllers.length === 0}>
              Program
            </Button>
          ) : undefined
        }
      />
      {view === "all" && (
        <AllPrograms
          onPick={(id) => {
            setView("programs");
            setAt(id);
          }}
        />
      )}
      {view === "site" && <SiteWide />}
      {view === "once" && <OneOffPanel />}
      {view === "sheet" && <SetupSheetView />}
      {view === "programs" &&
        (program ? (
          <div className="grid grid-cols-1 gap-6 md:grid-cols-[minmax(0,1fr)_21rem] xl:grid-cols-[13rem_minmax(0,1fr)_19rem_17rem]">
            <ProgramList chosen={program.id} onChoose={setAt} />
            <div className="min-w-0">
              <ProgramFindings program={program} />
              <RunMatrix key={program.id} program={program} />
            </div>
            <ProgramWhen key={`when-${program.id}`} program={program} />
            <ProgramHow key={`how-${program.id}`} program={program} />
          </div>
        ) : (
          <p className="my-4 max-w-prose">
            {draft.stations.length === 0
              ? "List the stations first; then write the program that waters them."
              : "No program yet. Add one: its days, start times and window, then the minutes of each station."}
          </p>
        ))}
    </>
  );
}

function CopyMenu({ program, onCopied }: { program: Program; onCopied: (id: string) => void }) {
  const { draft, edit } = useWorkspace("draft", "edit");
  const copy = (controllerId: string): void => {
    const made = copyProgram(draft, program.id, controllerId);
    edit(() => made.file);
    onCopied(made.id);
  };
  return (
    <Menu label="Copy program" icon={CopyPlus} end>
      {(close) => [
        ...draft.controllers.map((c) => (
          <Button
            key={c.id}
            rank="quiet"
            className="justify-start"
            onClick={() => {
              close();
              copy(c.id);
            }}
          >
            {c.id === program.controllerId ? "here, with its stations" : `to ${c.name}, without stations`}
          </Button>
        )),
        <ButtonLink
          key="sites"
          rank="quiet"
          className="justify-start"
          href={manyHref({ kind: "programAs", program: patternOfProgram(program), from: draft.site.name })}
        >
          to other sites, without stations
        </ButtonLink>,
      ]}
    </Menu>
  );
}

function ProgramList({ chosen, onChoose }: { chosen: string; onChoose: (id: string) => void }) {
  const { draft, date } = useWorkspace("draft", "date");
  const conventions = useConventions();
  const held = (p: Program): string | null => {
    if (p.enabled === false) return "off";
    if (!isHeld(p, date)) return null;
    return p.holdUntil === "indefinite" ? "held, no end" : `held until ${conventions.date(p.holdUntil ?? date)}`;
  };
  return (
    <nav aria-label="Programs" className="min-w-0 md:col-span-2 xl:col-span-1">
      <ul className="flex gap-1 overflow-x-auto xl:flex-col">
        {draft.programs.map((p) => (
          <li key={p.id} className="min-w-40">
            <Button
              rank="bare"
              className={classes(
                "w-full border-l-4 px-2 py-1 hover:bg-base-200",
                p.id === chosen ? "border-base-content bg-base-200" : "border-transparent",
              )}
              aria-current={p.id === chosen ? "true" : undefined}
              onClick={() => onChoose(p.id)}
            >
              <span className="block font-semibold">{p.name}</span>
              <span className="block text-xs text-faint">
                {startsWords(p) || "no start"} · {daysWords(p.days, conventions.date)}
              </span>
              {held(p) && <span className="block text-xs font-semibold text-warning">{held(p)}</span>}
            </Button>
          </li>
        ))}
      </ul>
    </nav>
  );
}
