"use client";
import { Button } from "@/components/kit/button";
import { Input } from "@/components/kit/inputs";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/workspace";

/** Shows what will change before it is saved, and what another writer changed meanwhile. */
export function SaveBar() {
  const { changes, save, saving, discard, undo, canUndo, problem, dismissProblem, conflict, resolveConflict, canEdit } =
    useWorkspace();
  const [note, setNote] = useState("");
  const [all, setAll] = useState(false);
  if (conflict)
    return (
      <section
        role="alertdialog"
        aria-label="Saved by someone else meanwhile"
        className="no-print border-y-2 border-error px-4 py-3 bg-base-200"
      >
        <h2 className="text-lg text-error">Someone else saved first</h2>
        <p>{conflict.message}</p>
        <div className="grid sm:grid-cols-2 gap-6 my-2">
          <div>
            <h3>{conflict.current.by} changed</h3>
            <ChangeList changes={conflict.theirs} all />
          </div>
          <div>
            <h3>You changed, not saved yet</h3>
            <ChangeList changes={changes} all />
          </div>
        </div>
        <div className="flex flex-wrap gap-2">
          <Button rank="main" onClick={() => resolveConflict("mine")}>
            Keep mine on top of theirs to compare
          </Button>
          <Button onClick={() => resolveConflict("theirs")}>Take theirs, drop mine</Button>
        </div>
        <p className="text-sm text-faint mt-1">
          Keeping yours shows every difference from their revision again; nothing is saved until you press Save.
        </p>
      </section>
    );
  if (changes.length === 0 && !problem) return null;
  return (
    <section aria-label="Unsaved changes" className="no-print border-y border-warning px-4 py-2 bg-base-200">
      {problem && (
        <p role="alert" className="text-error font-semibold mb-1">
          {problem}{" "}
          <Button rank="quiet" onClick={dismissProblem}>
            Dismiss
          </Button>
        </p>
      )}
      {changes.length > 0 && (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={async (e) => {
            e.preventDefault();
            if (await save(note)) setNote("");
          }}
        >
          <div className="grow min-w-64">
            <strong>
              {changes.length} change{changes.length > 1 ? "s" : ""} not saved
            </strong>
            <ChangeList changes={changes} all={all} />
            {changes.length > 3 && (
              <Button rank="quiet" onClick={() => setAll(!all)}>
                {all ? "Show fewer" : `Show all ${changes.length}`}
              </Button>
            )}
          </div>
          <label className="w-56">
            <span className="block text-sm text-faint">Note for the log</span>
            <Input value={note} maxLength={500} onChange={(e) => setNote(e.target.value)} />
          </label>
          <div className="flex gap-2">
            <Button rank="main" type="submit" disabled={saving || !canEdit}>
              {saving ? "Saving…" : "Save"}
            </Button>
            <Button onClick={undo} disabled={!canUndo}>
              Undo
            </Button>
            <Button onClick={discard}>Discard all</Button>
          </div>
        </form>
      )}
    </section>
  );
}

export function ChangeList({ changes, all }: { changes: { path: string; words: string }[]; all?: boolean }) {
  const shown = all ? changes : changes.slice(0, 3);
  return (
    <ul className="text-sm">
      {shown.map((c) => (
        <li key={`${c.path}${c.words}`}>{c.words}</li>
      ))}
    </ul>
  );
}
