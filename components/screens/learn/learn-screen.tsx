"use client";
import { Button } from "@/components/kit/button";
import { useEffect, useState } from "react";
import { useWorkspace } from "@/components/draft/workspace";
import { BeforePanel } from "./before-panel";
import { FieldPanel } from "./field-panel";
import { Ledger } from "./ledger";
import { LivePanel } from "./live-panel";
import { OutsidePanel } from "./outside-panel";
import { SetsPanel } from "./sets-panel";
import { useLearning } from "../../data/use-learning";

const PARTS = ["before", "ledger", "sets", "field", "outside"] as const;
type Part = (typeof PARTS)[number];

/** Learning: what would be refused and why, time and water, a live trace, proposals to take or leave, sets, and flows from outside. */
export function LearnScreen() {
  const { date } = useWorkspace();
  const learning = useLearning();
  const { view, problem, loaded } = learning;
  const [part, setPart] = useState<Part | null>(null);
  const [sets, setSets] = useState<string[][]>([]);
  const open = view.results.filter((r) => r.taken_at === null && r.verdict === "accepted").length;
  // In the field one station is what is wanted; at the desk what is to be decided, if there is something.
  useEffect(() => {
    if (loaded) setPart((known) => known ?? (window.innerWidth < 640 ? "field" : open > 0 ? "ledger" : "before"));
  }, [loaded, open]);
  const shown = part ?? "before";
  const words: Record<Part, string> = {
    before: "Before",
    ledger: open > 0 ? `Ledger, ${open} to decide` : "Ledger",
    sets: sets.length > 0 ? `Sets, ${sets.length} chosen` : "Sets",
    field: "One station",
    outside: "In and out",
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 mb-2">
        <h2 className="text-xl">Learn</h2>
        <div role="tablist" aria-label="Parts of learning" className="flex flex-wrap gap-x-4">
          {PARTS.map((p, i) => (
            <Button
              rank="bare"
              key={p}
              id={`part-${p}`}
              role="tab"
              aria-selected={shown === p}
              aria-controls="part"
              tabIndex={shown === p ? 0 : -1}
              onClick={() => setPart(p)}
              onKeyDown={(e) => {
                const to = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
                const next = PARTS[(i + to + PARTS.length) % PARTS.length];
                if (to !== 0 && next) {
                  setPart(next);
                  document.getElementById(`part-${next}`)?.focus();
                }
              }}
              className={`min-h-[1.9rem] border-b-[3px] ${shown === p ? "border-current font-semibold" : "border-transparent"}`}
            >
              {words[p]}
            </Button>
          ))}
        </div>
      </div>
      {problem && (
        <p role="alert" className="text-error font-semibold mb-2">
          {problem}
        </p>
      )}
      {(learning.running || shown === "before" || shown === "ledger") && <LivePanel learning={learning} />}
      <div id="part" role="tabpanel" aria-labelledby={`part-${shown}`}>
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
