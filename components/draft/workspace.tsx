"use client";
import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { type Change, difference } from "@/core/site-file/difference";
import { parseSite } from "@/core/site-file/parse-site";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightSummary } from "@/core/summary/night-summary";
import { progress, type LogState } from "@/core/summary/progress";
import type { UnitSystem } from "@/core/units/units";
import type { NightAnswer } from "@/workers/messages";
import { request, RequestRefused } from "../data/request";
import { computeNight } from "./compute";

export type Conflict = { message: string; theirs: Change[]; current: { version: number; by: string; file: SiteFile } };

export type Workspace = {
  siteId: string;
  base: SiteFile;
  version: number;
  draft: SiteFile;
  changes: Change[];
  canEdit: boolean;
  isManager: boolean;
  userName: string;
  /** Applies a change to the draft; one step of undo. Changes in a row with the same `gesture` (one drag) are one step together. */
  edit: (change: (file: SiteFile) => SiteFile, gesture?: string) => void;
  undo: () => void;
  canUndo: boolean;
  redo: () => void;
  canRedo: boolean;
  discard: () => void;
  save: (note: string) => Promise<boolean>;
  saving: boolean;
  problem: string | null;
  dismissProblem: () => void;
  conflict: Conflict | null;
  /** Takes their revision as the new base, keeping or dropping what is here. */
  resolveConflict: (keep: "theirs" | "mine") => void;
  /** The server changed the configuration itself (learned flows, lockouts): start from there. */
  adopt: (file: SiteFile, version: number) => void;
  units: UnitSystem;
  toggleUnits: () => void;
  date: string;
  setDate: (date: string) => void;
  night: NightAnswer | null;
  baseSummary: NightSummary | null;
  fittings: ReturnType<typeof progress>;
  log: LogState;
  setLog: (log: Partial<LogState>) => void;
};

const Context = createContext<Workspace | null>(null);

export function useWorkspace(): Workspace {
  const value = useContext(Context);
  if (!value) throw new Error("useWorkspace outside a site");
  return value;
}

type Props = {
  siteId: string;
  file: SiteFile;
  version: number;
  role: string;
  userName: string;
  today: string;
  log: { openAlarms: number; benchVersion: number | null };
  children: React.ReactNode;
};

export function WorkspaceProvider({ siteId, file, version, role, userName, today, log: firstLog, children }: Props) {
  const [base, setBase] = useState({ file, version });
  const [draft, setDraft] = useState(file);
  const [past, setPast] = useState<SiteFile[]>([]);
  const [future, setFuture] = useState<SiteFile[]>([]);
  const [saving, setSaving] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [conflict, setConflict] = useState<Conflict | null>(null);
  const [ownUnits, setUnits] = useState<UnitSystem | null>(null);
  const [date, setDate] = useState(today);
  const [night, setNight] = useState<NightAnswer | null>(null);
  const [baseSummary, setBaseSummary] = useState<NightSummary | null>(null);
  const [logFacts, setLogFacts] = useState(firstLog);

  const changes = useMemo(() => (draft === base.file ? [] : difference(base.file, draft)), [draft, base]);
  const draftNow = useRef(draft);
  draftNow.current = draft;

  const lastGesture = useRef<string | undefined>(undefined);
  const edit = useCallback((change: (file: SiteFile) => SiteFile, gesture?: string) => {
    const before = draftNow.current;
    const after = change(before);
    if (after === before) return;
    const goesOn = gesture !== undefined && gesture === lastGesture.current;
    lastGesture.current = gesture;
    draftNow.current = after;
    if (!goesOn) setPast((p) => [...p.slice(-199), before]);
    setFuture([]);
    setDraft(after);
  }, []);
  const undo = useCallback(() => {
    const last = past[past.length - 1];
    if (!last) return;
    setFuture((f) => [...f, draftNow.current]);
    setPast(past.slice(0, -1));
    draftNow.current = last;
    lastGesture.current = undefined;
    setDraft(last);
  }, [past]);
  const redo = useCallback(() => {
    const next = future[future.length - 1];
    if (!next) return;
    setPast((p) => [...p, draftNow.current]);
    setFuture(future.slice(0, -1));
    draftNow.current = next;
    setDraft(next);
  }, [future]);
  const adopt = useCallback((next: SiteFile, nextVersion: number) => {
    setBase({ file: next, version: nextVersion });
    setDraft(next);
    setPast([]);
    setFuture([]);
    setConflict(null);
    setProblem(null);
  }, []);

  const save = useCallback(
    async (note: string): Promise<boolean> => {
      const parsed = parseSite(JSON.parse(JSON.stringify(draftNow.current)));
      if (!parsed.ok) {
        setProblem(parsed.problems[0]?.message ?? "The configuration is not right.");
        return false;
      }
      setSaving(true);
      setProblem(null);
      try {
        const saved = await request<{ version: number; file: SiteFile }>("POST", `/api/sites/${siteId}/revisions`, {
          baseVersion: base.version,
          file: parsed.site,
          note,
        });
        adopt(saved.file, saved.version);
        return true;
      } catch (error) {
        if (error instanceof RequestRefused && error.code === "staleVersion")
          setConflict({ message: error.message, ...(error.details as Omit<Conflict, "message">) });
        else setProblem(error instanceof Error ? error.message : String(error));
        return false;
      } finally {
        setSaving(false);
      }
    },
    [siteId, base.version, adopt],
  );

  const resolveConflict = useCallback(
    (keep: "theirs" | "mine") => {
      if (!conflict) return;
      const mine = draftNow.current;
      setBase({ file: conflict.current.file, version: conflict.current.version });
      setDraft(keep === "mine" ? mine : conflict.current.file);
      setPast([]);
      setConflict(null);
    },
    [conflict],
  );

  useEffect(() => {
    let gone = false;
    const job = computeNight(draft, date);
    job.promise.then(
      (answer) => {
        if (!gone) setNight(answer);
      },
      () => {},
    );
    return () => {
      gone = true;
      job.cancel();
    };
  }, [draft, date]);
  useEffect(() => {
    let gone = false;
    const job = computeNight(base.file, date);
    job.promise.then(
      (answer) => {
        if (!gone) setBaseSummary(answer.summary);
      },
      () => {},
    );
    return () => {
      gone = true;
      job.cancel();
    };
  }, [base.file, date]);

  useEffect(() => {
    if (changes.length === 0) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [changes.length]);

  const log: LogState = useMemo(() => ({ ...logFacts, version: base.version }), [logFacts, base.version]);
  const fittings = useMemo(
    () => progress(draft, night?.summary ?? null, log, new Date().toISOString()),
    [draft, night, log],
  );
  const units = ownUnits ?? draft.site.units;
  const value: Workspace = {
    siteId,
    base: base.file,
    version: base.version,
    draft,
    changes,
    canEdit: role !== "viewer",
    isManager: role === "manager",
    userName,
    edit,
    undo,
    canUndo: past.length > 0,
    redo,
    canRedo: future.length > 0,
    discard: () => {
      setDraft(base.file);
      setPast([]);
      setFuture([]);
      setProblem(null);
    },
    save,
    saving,
    problem,
    dismissProblem: () => setProblem(null),
    conflict,
    resolveConflict,
    adopt,
    units,
    toggleUnits: () => setUnits(units === "us" ? "metric" : "us"),
    date,
    setDate,
    night,
    baseSummary,
    fittings,
    log,
    setLog: (facts) => setLogFacts((known) => ({ ...known, ...facts })),
  };
  return <Context.Provider value={value}>{children}</Context.Provider>;
}
