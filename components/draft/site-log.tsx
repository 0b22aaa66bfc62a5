"use client";
import { createContext, useContext, useMemo, useState } from "react";
import type { LogFacts } from "@/contracts/log";
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
export function useFittings(): ReturnType<typeof progress> {
  const draft = useDraft((s) => s.draft);
  const version = useDraft((s) => s.version);
  const summary = useNight()?.summary ?? null;
  const { openAlarms, calm, faulted } = useSiteLog();
  return useMemo(
    () => progress(draft, summary, { openAlarms, calm, faulted, version }, new Date().toISOString()),
    [draft, summary, openAlarms, calm, faulted, version],
  );
}
