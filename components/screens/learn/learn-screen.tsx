"use client";
import dynamic from "next/dynamic";
import { useEffect, useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { ScreenBar } from "@/components/frame/screen-bar";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Problem } from "@/components/kit/notice";
import { useLearning } from "../../data/use-learning";
import { BeforePanel } from "./before-panel";
import { LivePanel } from "./live-panel";

const FieldPanel = dynamic(() => import("./field-panel").then((m) => m.FieldPanel));
const Ledger = dynamic(() => import("./ledger").then((m) => m.Ledger));
const OutsidePanel = dynamic(() => import("./outside-panel").then((m) => m.OutsidePanel));
const SetsPanel = dynamic(() => import("./sets-panel").then((m) => m.SetsPanel));

const PARTS = ["before", "ledger", "sets", "field", "outside"] as const;
type Part = (typeof PARTS)[number];
const isPart = (value: string): boolean => PARTS.some((part) => part === value);

/** Learning: what would be refused and why, time and water, a live trace, proposals to take or leave, sets, and flows from outside. */
export function LearnScreen() {
  const { date } = useWorkspace("date");
  const learning = useLearning();
  const { view, problem, loaded } = learning;
  const [part, setPart] = useScreenParam<Part | "">("view", "", { fits: isPart });
  const [sets, setSets] = useState<string[][]>([]);
  const open = view.results.filter((r) => r.takenAt === null && r.verdict === "accepted").length;
  const [usual, setUsual] = useState<Part>("before");
  // In the field one station is what is wanted; at the desk what is to be decided, if there is something.
  useEffect(() => {
    if (loaded) setUsual((known) => (known === "before" && open > 0 ? "ledger" : known));
    if (loaded && window.innerWidth < 640) setUsual("field");
  }, [loaded, open]);
  const shown: Part = part === "" ? usual : part;
  const views = [
    { id: "before" as const, label: "Before" },
    { id: "ledger" as const, label: open > 0 ? `Ledger, ${open} to decide` : "Ledger" },
    { id: "sets" as const, label: sets.length > 0 ? `Sets, ${sets.length} chosen` : "Sets" },
    { id: "field" as const, label: "One station" },
    { id: "outside" as const, label: "In and out" },
  ];
  return (
    <>
      <ScreenBar title="Learn" views={views} at={shown} onView={setPart} />
      {problem && <Problem className="mb-2">{problem}</Problem>}
      {(learning.running || shown === "before" || shown === "ledger") && <LivePanel learning={learning} />}
      <div role="tabpanel" aria-label={views.find((v) => v.id === shown)?.label}>
        {/* What was chosen there stays while one looks elsewhere. */}
        <div hidden={shown !== "before"}>
          <BeforePanel
            learning={learning}
            sets={sets}
            onStarted={() => {
              setSets([]);
              setPart("ledger");
            }}
          />
        </div>
        {shown === "ledger" && (
          <Ledger
            learning={learning}
            onLearnAgain={(stationId) =>
              void learning.start({
                stationIds: [stationId],
                sets: [],
                faults: [],
                seed: 1 + (Date.now() % 1000),
                date,
                from: "12:00",
                avoid: true,
                pace: 240,
                baselineS: 30,
                later: false,
              })
            }
          />
        )}
        {shown === "sets" && <SetsPanel learning={learning} chosen={sets} onChoose={setSets} />}
        {shown === "field" && <FieldPanel learning={learning} />}
        {shown === "outside" && <OutsidePanel learning={learning} onTaken={() => setPart("ledger")} />}
      </div>
    </>
  );
}
