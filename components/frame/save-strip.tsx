"use client";
import { Redo2, RotateCcw, Save, Undo2 } from "lucide-react";
import { useState } from "react";
import { useChanges, useHistory, useWorkspace } from "@/components/draft/site-draft";
import { useSave } from "@/components/draft/use-save";
import { Button } from "@/components/kit/button";
import { Input, Radio } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import type { Change } from "@/core/site-file/difference";
import type { Side } from "@/core/site-file/merge";

/** Docked to the tell-line: what is not saved yet, and what another's save asks. It never moves the page. */
export function SaveStrip() {
  const { meeting, problem, news, say } = useWorkspace("meeting", "problem", "news", "say");
  const changes = useChanges();
  const { canUndo, canRedo } = useHistory();
  const steps = canUndo || canRedo;
  if (meeting) return <MeetingStrip />;
  if (changes.length === 0 && !problem && !news && !steps) return null;
  return (
    <section
      aria-label="Unsaved changes"
      className="no-print border-t border-primary bg-secondary px-4 py-1.5 text-secondary-content"
    >
      {news && (
        <p role="status" className="flex items-center gap-3">
          {news}
          <Button rank="quiet" onClick={() => say({ news: null })}>
            Read
          </Button>
        </p>
      )}
      {problem && (
        <div className="flex items-center gap-3">
          <Problem>{problem}</Problem>
          <Button rank="quiet" onClick={() => say({ problem: null })}>
            Dismiss
          </Button>
        </div>
      )}
      {(changes.length > 0 || steps) && <Unsaved changes={changes} />}
    </section>
  );
}

function Unsaved({ changes }: { changes: Change[] }) {
  const { canEdit, undo, redo, discard } = useWorkspace("canEdit", "undo", "redo", "discard");
  const { canUndo, canRedo } = useHistory();
  const { save, saving } = useSave();
  const [note, setNote] = useState("");
  const [all, setAll] = useState(false);
  if (changes.length === 0)
    return (
      <div className="flex items-center gap-3">
        <span className="grow">As saved.</span>
        {canUndo && (
          <Button rank="quiet" icon={Undo2} onClick={undo}>
            Undo
          </Button>
        )}
        {canRedo && (
          <Button rank="quiet" icon={Redo2} onClick={redo}>
            Redo
          </Button>
        )}
      </div>
    );
  return (
    <form
      className="flex flex-wrap items-center gap-x-4 gap-y-1"
      onSubmit={async (e) => {
        e.preventDefault();
        if (await save(note)) setNote("");
      }}
    >
      <strong className="whitespace-nowrap">
        {changes.length} change{changes.length > 1 ? "s" : ""}
        <span className="sr-only"> not saved</span>
      </strong>
      <div className="min-w-40 grow basis-0">
        <ul className={all ? "max-h-[30vh] overflow-y-auto" : "truncate"}>
          {(all ? changes : changes.slice(0, 1)).map((c) => (
            <li key={`${c.path}${c.words}`} className={all ? "" : "truncate"}>
              {c.words}
            </li>
          ))}
        </ul>
      </div>
      {changes.length > 1 && (
        <Button rank="quiet" onClick={() => setAll(!all)} aria-expanded={all}>
          {all ? "Show fewer" : `Show all ${changes.length}`}
        </Button>
      )}
      <Input
        className="w-48"
        value={note}
        maxLength={500}
        aria-label="Note for the log"
        placeholder="Note for the log"
        onChange={(e) => setNote(e.target.value)}
      />
      <div className="flex gap-1">
        <Button rank="quiet" icon={Undo2} onClick={undo} disabled={!canUndo}>
          Undo
        </Button>
        {canRedo && (
          <Button rank="quiet" icon={Redo2} onClick={redo}>
            Redo
          </Button>
        )}
        <Button icon={RotateCcw} onClick={discard}>
          Discard all
        </Button>
        <Button type="submit" rank="main" icon={Save} disabled={saving || !canEdit}>
          {saving ? "Saving…" : "Save"}
        </Button>
      </div>
    </form>
  );
}

/** Both changed the same field: only that is asked. */
function MeetingStrip() {
  const { meeting, choose, settle } = useWorkspace("meeting", "choose", "settle");
  if (!meeting) return null;
  const { theirs, clashes, choices } = meeting;
  const side = (path: string): Side => choices[path] ?? "theirs";
  return (
    <section
      role="alertdialog"
      aria-label="Saved by someone else meanwhile"
      className="no-print max-h-[60vh] overflow-y-auto border-t-2 border-error bg-base-100 px-4 py-3"
    >
      <h2 className="text-lg">
        {theirs.by} saved revision {theirs.version} first
      </h2>
      <p>
        What only one of you changed is put together. {clashes.length === 1 ? "One field" : `${clashes.length} fields`}{" "}
        you both changed: whose is it to be? Nothing is saved until you press Save.
      </p>
      <ul className="my-2 divide-y divide-base-300">
        {clashes.map((c) => (
          <li key={c.path} className="grid gap-x-6 py-1 sm:grid-cols-2">
            {(["theirs", "mine"] as const).map((s) => (
              <label key={s} className="flex items-center gap-2">
                <Radio name={c.path} checked={side(c.path) === s} onChange={() => choose(c.path, s)} />
                <span>
                  <strong>{s === "mine" ? "Yours" : theirs.by}</strong> {c.words[s]}
                </span>
              </label>
            ))}
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2">
        <Button rank="main" onClick={() => settle("merge")}>
          Put together
        </Button>
        <Button rank="danger" onClick={() => settle("theirs")}>
          Take theirs, drop all of mine
        </Button>
      </div>
    </section>
  );
}
