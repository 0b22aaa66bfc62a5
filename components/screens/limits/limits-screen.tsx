"use client";
import { Scroller } from "@/components/kit/scroller";
import { Table2 } from "lucide-react";
import dynamic from "next/dynamic";
import { useCallback, useEffect, useMemo } from "react";
import { useNight, useWorkspace } from "@/components/draft/site-draft";
import { useNightsFind } from "@/components/draft/use-nights-find";
import { ScreenBar } from "@/components/frame/screen-bar";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { WithInspector } from "@/components/kit/inspector";
import { Segments } from "@/components/kit/segments";
import { isTyping } from "@/components/kit/typing";
import { usePrinting } from "@/components/kit/use-printing";
import { Jaw } from "@/components/pictures/jaw/jaw";
import type { Company } from "@/components/pictures/jaw/jaw-scale";
import { JawKey } from "@/components/pictures/jaw/jaw-key";
import { RESPONSES } from "@/components/words/response-words";
import { useTaughtSets } from "@/components/data/use-taught-sets";
import { TaughtLine } from "./taught-line";
import { sightOf, type StationSight } from "@/core/limits/sight";
import { watchedByStation } from "@/core/limits/watched";
import type { Policy, SiteFile } from "@/core/site-file/schema";
import { HandWateringPanel } from "./hand-watering-panel";
import { InheritedPanel } from "./inherited-panel";
import { JawTable } from "./jaw-table";
import { NightsLine } from "./nights-find";
import { PolicyForm } from "./policy-form";
import { StationLimits, useInherits } from "./station-limits";

const JudgementPanel = dynamic(() => import("./judgement-panel").then((m) => m.JudgementPanel));
const BudgetPanel = dynamic(() => import("./budget-panel").then((m) => m.BudgetPanel));

const COMPANY = [
  { id: "alone", label: "Alone" },
  { id: "best", label: "In any set of the plan" },
  { id: "fullest", label: "In the fullest set" },
] as const;
type View = "jaw" | "mains" | "hand" | "points" | "budget";
const VIEWS = [
  { id: "jaw", label: "Jaw" },
  { id: "mains", label: "Connections and mains" },
  { id: "hand", label: "Hand watering" },
  { id: "points", label: "Starting points" },
  { id: "budget", label: "By budget" },
] as const;
const isView = oneOf(VIEWS);

/** How far above or below expected flow is wrong, for how long, and what then happens; and which breaks that can see at all. */
export function LimitsScreen() {
  const { draft } = useWorkspace("draft");
  const night = useNight();
  const [view, setView] = useScreenParam<View>("view", "jaw", { fits: isView });
  const [as, setAs] = useScreenParam<"picture" | "table">("as", "picture");
  const runs = useMemo(() => night?.plan.runs ?? [], [night]);
  const sets = useTaughtSets();
  const rows = useMemo(() => sightOf(draft, runs, sets), [draft, runs, sets]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === "t" && !isTyping(e) && !e.ctrlKey && !e.metaKey) setAs(as === "table" ? "picture" : "table");
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [as, setAs]);
  const bar = (
    <ScreenBar
      title="Limits"
      views={VIEWS}
      at={view}
      onView={setView}
      tools={
        view === "jaw" && rows.length > 0 ? (
          <Button
            rank="quiet"
            icon={Table2}
            title="t"
            aria-pressed={as === "table"}
            onClick={() => setAs(as === "table" ? "picture" : "table")}
          >
            {as === "table" ? "As a picture" : "As a table"}
          </Button>
        ) : undefined
      }
      main={
        view === "jaw" ? (
          <Button rank="main" onClick={() => setView("points")}>
            Compare starting points
          </Button>
        ) : undefined
      }
    />
  );
  if (rows.length === 0)
    return (
      <>
        {bar}
        <p className="max-w-prose">
          Limits stand on expected flows. List stations with their design flows, or learn them, first.
        </p>
      </>
    );
  return (
    <>
      {bar}
      {view === "jaw" && <JawView rows={rows} asTable={as === "table"} />}
      {view === "mains" && <InheritedPanel />}
      {view === "hand" && <HandWateringPanel />}
      {view === "points" && <JudgementPanel />}
      {view === "budget" && <BudgetPanel />}
    </>
  );
}

function JawView({ rows, asTable }: { rows: StationSight[]; asTable: boolean }) {
  const { draft, edit, units, canEdit } = useWorkspace("draft", "edit", "units", "canEdit");
  const printing = usePrinting();
  const night = useNight();
  const [company, setCompany] = useScreenParam<Company>("judged", "alone");
  const [selected, setSelected] = useScreenParam<string>("at", "", { add: false });
  const inherits = useInherits();
  const runs = useMemo(() => night?.plan.runs ?? [], [night]);
  const watched = useMemo(
    () => new Map([...watchedByStation(draft, runs)].map(([id, w]) => [id, w.runS > 0 ? w.watchedS / w.runS : 0])),
    [draft, runs],
  );
  const move = useCallback(
    (side: "high" | "low", percent: number, stationId: string | null, gesture?: string): void => {
      const key = side === "high" ? "highPercent" : "lowPercent";
      edit((f: SiteFile): SiteFile => {
        if (stationId !== null)
          return { ...f, stations: f.stations.map((s) => (s.id === stationId ? { ...s, [key]: percent } : s)) };
        const { preset: _, ...policy } = f.policy;
        return { ...f, policy: { ...policy, [key]: percent } };
      }, gesture);
    },
    [edit],
  );
  const { base, date } = useWorkspace("base", "date");
  // Of the settings as saved: a limit that is dragged changes nothing of it.
  const nights = useNightsFind(base, date);
  const station = draft.stations.find((s) => s.id === selected);
  const sight = rows.find((r) => r.stationId === selected);
  const count = (sees: (r: StationSight) => boolean): number => rows.filter((r) => !sees(r)).length;
  return (
    <WithInspector
      label="Limits in figures"
      inspector={
        <>
          {station && sight && (
            <StationLimits
              station={station}
              sight={sight}
              nights={nights?.find((f) => f.stationId === station.id) ?? null}
            />
          )}
          <PolicyForm />
        </>
      }
    >
      <p className="print-only">{policyWords(draft.policy)}</p>
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <div className="no-print">
          <Segments label="Judged" options={COMPANY} at={company} onChange={setCompany} />
        </div>
        <span className="print-only">Judged: {COMPANY.find((c) => c.id === company)?.label.toLowerCase()}.</span>
        <p>
          A broken outlet unseen at <strong>{count((r) => r.alone.seesOutlet)}</strong> of {rows.length} alone,{" "}
          <strong>{count((r) => r.fullest.seesOutlet)}</strong> in the fullest set; a lateral at{" "}
          <strong>{count((r) => r.fullest.seesLateral)}</strong>, in every set at{" "}
          <strong>{count((r) => r.best.seesLateral)}</strong>. <NightsLine rows={rows} nights={nights} /> <TaughtLine />
        </p>
      </div>
      {asTable || printing ? (
        <JawTable
          rows={rows}
          company={company}
          watched={watched}
          selected={selected || null}
          onSelect={setSelected}
          inherits={inherits}
        />
      ) : (
        <>
          <Scroller>
            <Jaw
              site={draft}
              rows={rows}
              company={company}
              units={units}
              watched={watched}
              canEdit={canEdit}
              selected={selected || null}
              onSelect={setSelected}
              onMove={move}
            />
          </Scroller>
          <JawKey graded={draft.policy.basis === "graded"} />
        </>
      )}
    </WithInspector>
  );
}

/** The limits of the site in one line, for paper. */
function policyWords(policy: Policy): string {
  const response = (of: Policy["highResponse"]): string => RESPONSES.find(([id]) => id === of)?.[1] ?? of;
  const figures =
    policy.basis === "graded" ? "graded by total flow" : `+${policy.highPercent} %, −${policy.lowPercent} %`;
  return `Limits of the site: ${figures}, for ${policy.persistenceS} s. When high: ${response(policy.highResponse)}; when low: ${response(policy.lowResponse)}.`;
}
