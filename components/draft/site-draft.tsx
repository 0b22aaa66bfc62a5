"use client";
import { wrap } from "comlink";
import { createContext, useContext, useEffect, useState, useSyncExternalStore } from "react";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { type Change, difference } from "@/core/site-file/difference";
import type { SiteFile } from "@/core/site-file/schema";
import type { NightSummary } from "@/core/summary/night-summary";
import type { NightAnswer } from "@/core/summary/night-answer";
import type { NightWorker } from "@/workers/night.worker";
import { NightDesk, type NightMaker, type NightState } from "./night-desk";
import { type Begin, createDraft, type Draft, type DraftState } from "./store";

function nightWorker(): NightMaker {
  const worker = new Worker(new URL("../../workers/night.worker.ts", import.meta.url), { type: "module" });
  const desk = wrap<NightWorker>(worker);
  const failed = new Promise<never>((_, no) => {
    worker.onerror = (event) => no(new Error(event.message || "The night could not be loaded."));
  });
  failed.catch(() => {});
  return {
    night: (site, date) => Promise.race([desk.night(site, date), failed]) as Promise<NightAnswer>,
    end: () => worker.terminate(),
  };
}

type Site = { draft: Draft; desk: NightDesk; baseDesk: NightDesk };
const Context = createContext<Site | null>(null);

/** What is edited on one site, for all that stands inside; and the night of it, worked out as it changes. */
export function SiteDraft({
  children,
  make = nightWorker,
  ...begin
}: Begin & { make?: () => NightMaker; children: React.ReactNode }) {
  const [site] = useState<Site>(() => ({
    draft: createDraft(begin),
    desk: new NightDesk(make),
    baseDesk: new NightDesk(make),
  }));
  useEffect(() => {
    const { store } = site.draft;
    const follow = ({ draft, base, date }: DraftState): void => {
      site.desk.ask(draft, date);
      // What it was before is only wanted while there is something to compare.
      if (draft !== base) site.baseDesk.ask(base, date);
    };
    follow(store.getState());
    const stop = store.subscribe(follow);
    // The night as it is saved is known from before the first edit.
    const stopKeeping = site.desk.subscribe(() => {
      const night = site.desk.snapshot();
      if (night.status === "done" && night.of?.site === store.getState().base) site.baseDesk.know(night);
    });
    return () => {
      stop();
      stopKeeping();
      site.desk.end();
      site.baseDesk.end();
    };
  }, [site]);
  return <Context.Provider value={site}>{children}</Context.Provider>;
}

function useSite(): Site {
  const site = useContext(Context);
  if (!site) throw new Error("There is no site around this part.");
  return site;
}

type Actions = Omit<Draft, "store">;
type Workspace = DraftState & Actions;

/** The named parts of the draft and what can be done to it; what is not named does not draw this part anew. */
export function useWorkspace<K extends keyof Workspace>(...keys: K[]): Pick<Workspace, K> {
  const { draft } = useSite();
  const state = useStore(
    draft.store,
    useShallow((s: DraftState) =>
      Object.fromEntries(keys.filter((k) => k in s).map((k) => [k, s[k as keyof DraftState]])),
    ),
  );
  const actions = Object.fromEntries(keys.filter((k) => !(k in state)).map((k) => [k, draft[k as keyof Actions]]));
  return { ...state, ...actions } as Pick<Workspace, K>;
}

/** One part of the draft by a selector; it draws anew only when that changes. */
export function useDraft<T>(select: (state: DraftState) => T): T {
  return useStore(useSite().draft.store, select);
}

export function useDraftOf(): Draft {
  return useSite().draft;
}

/** How many steps can be taken back and forth. */
export function useHistory(): { canUndo: boolean; canRedo: boolean } {
  const past = useSite().draft.store.temporal;
  return useStore(
    past,
    useShallow((s) => ({ canUndo: s.pastStates.length > 0, canRedo: s.futureStates.length > 0 })),
  );
}

const told = new WeakMap<SiteFile, { base: SiteFile; changes: Change[] }>();
const NONE: Change[] = [];
/** The same for all who ask of a draft. */
function changesOf(base: SiteFile, draft: SiteFile): Change[] {
  if (draft === base) return NONE;
  const known = told.get(draft);
  if (known?.base === base) return known.changes;
  const changes = difference(base, draft);
  told.set(draft, { base, changes });
  return changes;
}

/** What is not saved yet, in words. */
export function useChanges(): Change[] {
  const { draft, base } = useWorkspace("draft", "base");
  return changesOf(base, draft);
}

export function useNightState(): NightState {
  const { desk } = useSite();
  return useSyncExternalStore(desk.subscribe, desk.snapshot, desk.snapshot);
}

/** The night of the draft as last worked out; null before the first and after one that failed. */
export function useNight(): NightAnswer | null {
  return useNightState().answer;
}

/** What the tell-line said before the unsaved edits; null where there are none. */
export function useSummaryBefore(): NightSummary | null {
  const { baseDesk } = useSite();
  const { answer, of } = useSyncExternalStore(baseDesk.subscribe, baseDesk.snapshot, baseDesk.snapshot);
  const { draft, base, date } = useWorkspace("draft", "base", "date");
  return draft !== base && of?.site === base && of.date === date ? (answer?.summary ?? null) : null;
}
