"use client";
import { createContext, useContext, useMemo, useState } from "react";
import type { LogFacts } from "@/contracts/log";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightSummary } from "@/core/summary/night-summary";
import type { LogState } from "@/core/summary/log-state";
import { progress } from "@/core/summary/progress";
import { useDraft, useNight } from "./site-draft";

type SiteLog = LogFacts & { setLog: (facts: Partial<LogFacts>) => void };

const Context = createContext<SiteLog | null>(null);

export function SiteLogProvider({ first, children }: { first: LogFacts; children: React.ReactNode }) {
  const [facts, setFacts] = useState(first);
  const value = useMemo(
    () => ({ ...facts, setLog: (more: Partial<LogFacts>) => setFacts((known) => ({ ...known, ...more })) }),
    [facts],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useSiteLog(): SiteLog {
  const value = useContext(Context);
  if (!value) throw new Error("There is no site around this part.");
  return value;
}

/** How far each step of the work is known to be right, with the reason in words. */
export function useFittings(): Fittings {
  const draft = useDraft((s) => s.draft);
  const version = useDraft((s) => s.version);
  const summary = useNight()?.summary ?? null;
  const { openAlarms, calm, faulted, there, nights } = useSiteLog();
  return fittingsOf(draft, summary, { openAlarms, calm, faulted, there, nights, version });
}

type Fittings = ReturnType<typeof progress>;
const known = new WeakMap<SiteFile, { summary: NightSummary | null; log: LogState; fittings: Fittings }>();

/** The same for all who ask of a draft: the pipe and the line below the screen's bar. */
function fittingsOf(draft: SiteFile, summary: NightSummary | null, log: LogState): Fittings {
  const last = known.get(draft);
  const same =
    last?.summary === summary && (Object.keys(log) as (keyof LogState)[]).every((k) => last.log[k] === log[k]);
  if (last && same) return last.fittings;
  const fittings = progress(draft, summary, log, new Date().toISOString());
  known.set(draft, { summary, log, fittings });
  return fittings;
}
