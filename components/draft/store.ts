import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";
import { type Clash, mergeSites, type Side } from "@/core/site-file/merge";
import type { SiteFile } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";

/** A revision as it was saved, and by whom. */
export type Revision = { file: SiteFile; version: number; by: string };
/** Somebody else saved while there are changes here: what only a person can decide. Everything else is put together already. */
export type Meeting = { theirs: Revision; clashes: Clash[]; choices: Record<string, Side> };

export type DraftState = {
  siteId: string;
  role: string;
  userName: string;
  canEdit: boolean;
  isManager: boolean;
  /** The newest revision that the draft rests on. */
  base: SiteFile;
  version: number;
  draft: SiteFile;
  units: UnitSystem;
  /** The night that is looked at, a local date. */
  date: string;
  saving: boolean;
  problem: string | null;
  meeting: Meeting | null;
  /** What someone else's save brought, until it is read. */
  news: string | null;
};

export type Begin = Pick<DraftState, "siteId" | "role" | "userName" | "version" | "date"> & { file: SiteFile };

const MOST_STEPS = 200;

function begun({ file, ...rest }: Begin): DraftState {
  return {
    ...rest,
    canEdit: rest.role !== "viewer",
    isManager: rest.role === "manager",
    base: file,
    draft: file,
    units: file.site.units,
    saving: false,
    problem: null,
    meeting: null,
    news: null,
  };
}

/**
 * What is being edited on one site: the draft over the revision it rests on, its undo (over the draft alone), and meeting other people's saves. Screens read it by
 * selectors; nothing copies out of it into a state of its own.
 */
export function createDraft(begin: Begin) {
  const store = createStore<DraftState>()(
    temporal(() => begun(begin), {
      limit: MOST_STEPS,
      partialize: ({ draft }) => ({ draft }),
      equality: (a, b) => a.draft === b.draft,
    }),
  );
  const { setState: set, getState: get, temporal: past } = store;
  let lastGesture: string | undefined;

  const put = (draft: SiteFile, gesture?: string): void => {
    if (draft === get().draft) return;
    const goesOn = gesture !== undefined && gesture === lastGesture;
    lastGesture = gesture;
    if (goesOn) past.getState().pause();
    set({ draft });
    if (goesOn) past.getState().resume();
  };
  /** A new ground to stand on: what was undone before belongs to another revision. */
  const rest = (base: SiteFile, version: number, draft: SiteFile): void => {
    lastGesture = undefined;
    set({ base, version, draft, meeting: null, problem: null });
    past.getState().clear();
  };
  const merged = ({ theirs, choices }: Meeting) => {
    const { base, draft } = get();
    return mergeSites(base, draft, theirs.file, (path) => choices[path] ?? "theirs");
  };

  return {
    store,
    /** Applies a change to the draft: one step of undo. Changes in a row with the same `gesture` (one drag) are one step together. */
    edit: (change: (file: SiteFile) => SiteFile, gesture?: string): void => put(change(get().draft), gesture),
    undo: (): void => {
      lastGesture = undefined;
      past.getState().undo();
    },
    redo: (): void => {
      lastGesture = undefined;
      past.getState().redo();
    },
    /** Back to the saved revision; one step of undo like any other. */
    discard: (): void => put(get().base),
    /** What the server made of the site: start from there. */
    adopt: (file: SiteFile, version: number): void => rest(file, version, file),
    /** `sent` was saved and came back as `file`: start from there, with whatever was changed meanwhile still on top. */
    saved: (sent: SiteFile, file: SiteFile, version: number): void => {
      const { draft } = get();
      rest(file, version, draft === sent ? file : mergeSites(sent, draft, file, () => "mine").file);
    },
    /** Someone saved `theirs`: taken in at once where nothing here stands against it, else put to the person. */
    meet: (theirs: Revision): void => {
      const { draft, base, version } = get();
      if (theirs.version <= version) return;
      if (draft === base) {
        rest(theirs.file, theirs.version, theirs.file);
        set({ news: `${theirs.by} saved revision ${theirs.version}; it is shown here.` });
        return;
      }
      const { file, clashes } = mergeSites(base, draft, theirs.file);
      if (clashes.length > 0) {
        set({ meeting: { theirs, clashes, choices: {} } });
        return;
      }
      rest(theirs.file, theirs.version, file);
      set({
        news: `${theirs.by} saved revision ${theirs.version}; your changes stand on it now, none of them touched.`,
      });
    },
    choose: (path: string, side: Side): void =>
      set((s) => (s.meeting ? { meeting: { ...s.meeting, choices: { ...s.meeting.choices, [path]: side } } } : s)),
    /** `merge`: theirs with what is here on top, clashes as chosen. `theirs`: what is here goes. */
    settle: (how: "merge" | "theirs"): void => {
      const { meeting } = get();
      if (!meeting) return;
      const { file, version } = meeting.theirs;
      rest(file, version, how === "merge" ? merged(meeting).file : file);
    },
    toggleUnits: (): void => set((s) => ({ units: s.units === "us" ? "metric" : "us" })),
    setDate: (date: string): void => set({ date }),
    say: (values: Partial<Pick<DraftState, "saving" | "problem" | "news">>): void => set(values),
  };
}
export type Draft = ReturnType<typeof createDraft>;
