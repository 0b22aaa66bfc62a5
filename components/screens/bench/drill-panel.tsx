"use client";
import { Mark } from "@/components/kit/notice";
import { Button } from "@/components/kit/button";
import { useCallback, useEffect, useRef, useState } from "react";
import { request, type Wire } from "@/components/data/request";
import { Cancelled, computeDrillAdvice } from "@/components/draft/compute";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Step } from "@/core/drill/advice";
import { beginDrill, type Drill, type DrillAdvice, type DrillOutcome, tell, type Told } from "@/core/drill/drill";
import type { Check, Standing } from "@/core/drill/drill-bench";
import type { SiteFile } from "@/core/site-file/schema";
import type { DrillBook } from "@/contracts/drills";
import { DrillControls } from "./drill-controls";
import { DrillNotebook } from "./drill-notebook";
import { DrillOutcomePanel, DrillResults } from "./drill-outcome";

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
  const [book, setBook] = useState<Wire<DrillBook> | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const cancel = useRef<(() => void) | null>(null);
  const path = `/api/sites/${siteId}/drills`;
  const reload = useCallback(
    () =>
      request<Wire<DrillBook>>("GET", path).then(setBook, (e) =>
        setProblem(e instanceof Error ? e.message : String(e)),
      ),
    [path],
  );
  useEffect(() => {
    void reload();
    return () => cancel.current?.();
  }, [reload]);

  const begin = (): void => {
    setProblem(null);
    setBusy("Setting it up…");
    cancel.current?.();
    // The words first, then the work.
    setTimeout(() => {
      const drill = beginDrill(base, date, Math.floor(Math.random() * 1e9));
      setBusy(null);
      setStanding(ALL_SHUT);
      if (!drill)
        setProblem(
          "Nothing runs behind a flow sensor on this date, so there is nothing to find. Choose another date, or set up a sensor first.",
        );
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
    setProblem(null);
    setBusy("Looking over what was done…");
    try {
      const outcome = await request<DrillOutcome>("POST", path, {
        version: going.version,
        date: going.date,
        seed: going.drill.seed,
        steps: going.steps,
        named: { kind, subjectId },
      });
      setGoing({ ...going, outcome });
      void reload();
      const job = computeDrillAdvice(
        going.site,
        { date: going.date, seed: going.drill.seed, steps: going.steps },
        () => {},
      );
      cancel.current = job.cancel;
      const advice = await job.promise;
      setGoing((g) => (g && g.drill === going.drill ? { ...g, advice } : g));
    } catch (error) {
      if (!(error instanceof Cancelled)) setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(null);
    }
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
        <Button rank="main" disabled={busy !== null} onClick={begin}>
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
      {problem && (
        <p role="alert" className="text-error font-semibold mb-2">
          {problem}
        </p>
      )}
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
