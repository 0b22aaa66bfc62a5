"use client";
import { Mark, Problem } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { useDrills } from "@/components/data/use-drills";
import { computeDrillAdvice } from "@/components/draft/compute";
import { useJob } from "@/components/draft/use-job";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Step } from "@/core/drill/advice";
import { beginDrill, type Drill, type DrillAdvice, type DrillOutcome, tell, type Told } from "@/core/drill/drill";
import type { Check, Standing } from "@/core/drill/drill-bench";
import type { SiteFile } from "@/core/site-file/schema";
import { DrillControls } from "./drill-controls";
import { DrillNotebook } from "./drill-notebook";
import { DrillOutcomePanel, DrillResults } from "./drill-outcome";

const NOTHING =
  "Nothing runs behind a flow sensor on this date, so there is nothing to find. Choose another date, or set up a sensor first.";
const ALL_SHUT: Standing = { open: [], valves: [], pumps: [] };
type Going = {
  drill: Drill;
  site: SiteFile;
  version: number;
  date: string;
  steps: Step[];
  told: Told[];
  outcome: DrillOutcome | null;
  advice: DrillAdvice | null;
};

/** Something is wrong on the bench and nobody says what: ask for readings, open and close things, name it. */
export function DrillPanel({ date }: { date: string }) {
  const { base, version, siteId } = useWorkspace("base", "version", "siteId");
  const [going, setGoing] = useState<Going | null>(null);
  const [standing, setStanding] = useState<Standing>(ALL_SHUT);
  const { book, problem: refused, judge, forget } = useDrills(siteId);
  const { problem: failed, start, cancel } = useJob<DrillAdvice | null>();
  const [nothing, setNothing] = useState(false);
  const [busy, setBusy] = useState<string | null>(null);
  const problem = (nothing ? NOTHING : null) ?? failed ?? refused;

  const begin = (): void => {
    forget();
    setBusy("Setting it up…");
    cancel();
    // The words first, then the work.
    setTimeout(() => {
      const drill = beginDrill(base, date, Math.floor(Math.random() * 1e9));
      setBusy(null);
      setStanding(ALL_SHUT);
      setNothing(drill === null);
      setGoing(drill && { drill, site: base, version, date, steps: [], told: [], outcome: null, advice: null });
    }, 30);
  };
  const check = (made: Check): void => {
    if (!going || going.outcome) return;
    const step: Step = { standing, check: made };
    const told = tell(going.drill, step, going.steps.at(-1)?.standing ?? ALL_SHUT, going.steps.length);
    setGoing({ ...going, steps: [...going.steps, step], told: [...going.told, told] });
  };
  const name = async (kind: DrillOutcome["named"]["kind"], subjectId: string): Promise<void> => {
    if (!going) return;
    setBusy("Looking over what was done…");
    const { version, date, steps, drill, site } = going;
    const outcome = await judge({ version, date, seed: drill.seed, steps, named: { kind, subjectId } });
    if (outcome) {
      setGoing({ ...going, outcome });
      const advice = await start((onProgress) =>
        computeDrillAdvice(site, { date, seed: drill.seed, steps }, onProgress),
      );
      setGoing((g) => (g && g.drill === drill ? { ...g, advice } : g));
    }
    setBusy(null);
  };

  return (
    <section aria-label="Drill">
      {!going && (
        <p className="max-w-prose mb-3">
          One thing is wrong on the bench, and nobody says what. You are told a reading of the night; then all is shut.
          Open and close what you like, read, time the meter, go and look: each takes its minutes, and what is broken
          goes on losing water while it stands open. Name the cause when you are sure.
        </p>
      )}
      <p className="flex flex-wrap items-center gap-3 mb-2">
        <Button rank={going && !going.outcome ? "quiet" : "main"} disabled={busy !== null} onClick={begin}>
          {!going && "Begin a drill"}
          {going && (going.outcome ? "Another drill" : "Give this one up, begin another")}
        </Button>
        {busy && <span role="status">{busy}</span>}
        {going && going.version !== version && (
          <span className="text-warning">
            <Mark tone="caution" /> on revision {going.version} of the site; {version} has been saved since
          </span>
        )}
      </p>
      {problem && <Problem className="mb-2">{problem}</Problem>}
      {going && (
        <>
          {going.outcome && <DrillOutcomePanel going={{ ...going, outcome: going.outcome }} />}
          <div className="grid xl:grid-cols-[minmax(0,1fr)_minmax(0,34rem)] gap-x-8 gap-y-4">
            {!going.outcome && (
              <DrillControls
                drill={going.drill}
                site={going.site}
                standing={standing}
                onStanding={setStanding}
                onCheck={check}
                onName={name}
                disabled={busy !== null}
              />
            )}
            <DrillNotebook
              site={going.site}
              drill={going.drill}
              steps={going.steps}
              told={going.told}
              possible={going.advice?.possible ?? null}
            />
          </div>
        </>
      )}
      {book && <DrillResults book={book} site={base} />}
    </section>
  );
}
