"use client";
import { useState } from "react";
import { usePhotos } from "@/components/data/use-photos";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { NoteField, TickField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { Segments } from "@/components/kit/segments";
import { LOOKED_WORDS } from "@/components/words/visit-words";
import type { VisitEntry, VisitLook } from "@/contracts/visits";
import type { ChecklistLine, Looked } from "@/core/visits/checklists";
import { DUTY_KINDS, type DutySubject } from "@/core/visits/duties";
import { PhotoLinks } from "./photo-links";
import { type Person, PhotoPart, TodoForm } from "./todo-form";

/** What is entered of a line; the rest is the visit's. */
export type Entered = Omit<VisitEntry, "id" | "lineId" | "at"> & { id?: string };
const NOTHING: Entered = { state: "ok", note: "", photoIds: [], doneOf: [], todo: null };

/** A line of a checklist: one press where it is in order; what is not asks for what is to do. @param subjects of what its duty is, where it has one */
export function VisitLine({
  line,
  look,
  subjects,
  people,
  onEnter,
}: {
  line: ChecklistLine;
  look: VisitLook | null;
  subjects: readonly DutySubject[];
  people: readonly Person[];
  /** Null: nothing may be entered. */
  onEnter: ((entered: Entered) => Promise<boolean>) | null;
}) {
  const { siteId } = useWorkspace("siteId");
  const [opened, setOpened] = useState<"problem" | "done" | "note" | null>(null);
  const renews = line.duty !== null && DUTY_KINDS[line.duty].noted && subjects.length > 0;
  const options = (["ok", ...(renews ? ["done" as const] : []), "problem", "left"] as Looked[]).map((id) => ({
    id,
    label: LOOKED_WORDS[id],
  }));
  const enter = async (entered: Entered): Promise<boolean> => {
    const done = (await onEnter?.(entered)) ?? false;
    if (done) setOpened(null);
    return done;
  };
  const choose = (state: Looked): void => {
    if (state === "problem" || (state === "done" && subjects.length > 1)) setOpened(state);
    else void enter({ ...NOTHING, state, doneOf: state === "done" ? subjects.map((s) => s.subjectId) : [] });
  };
  return (
    <li className="border-b border-base-300 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <span className="min-w-0 grow basis-64">{line.words}</span>
        {onEnter ? (
          <Segments
            label={line.words}
            options={options}
            at={opened === "problem" ? "problem" : (look?.state ?? null)}
            onChange={choose}
          />
        ) : (
          <strong className={look?.state === "problem" ? "text-warning" : "font-normal text-faint"}>
            {look ? LOOKED_WORDS[look.state].toLowerCase() : "not entered"}
          </strong>
        )}
      </div>
      {look && (look.note !== "" || look.photoIds.length > 0) && (
        <p className="flex flex-wrap gap-x-3 text-faint">
          {look.note} <PhotoLinks siteId={siteId} photoIds={look.photoIds} />
        </p>
      )}
      {opened === null && onEnter && look && (
        <Button rank="quiet" className="px-0" onClick={() => setOpened("note")}>
          {look.note === "" ? "Add a note or a photograph" : "Change the note"}
        </Button>
      )}
      {opened === "problem" && (
        <TodoForm
          label={`Not in order: ${line.words}`}
          people={people}
          submit="Note it"
          onEnter={({ id, photoIds, ...todo }) =>
            enter({ ...NOTHING, id, state: "problem", note: todo.words, photoIds, todo })
          }
          onLeave={() => setOpened(null)}
        />
      )}
      {opened === "done" && <DoneForm subjects={subjects} onEnter={enter} onLeave={() => setOpened(null)} />}
      {opened === "note" && look && <NoteForm look={look} onEnter={enter} onLeave={() => setOpened(null)} />}
    </li>
  );
}

type FormProps = { onEnter: (entered: Entered) => Promise<boolean>; onLeave: () => void };

/** Of which it was done. */
function DoneForm({ subjects, onEnter, onLeave }: FormProps & { subjects: readonly DutySubject[] }) {
  const [chosen, setChosen] = useState<readonly (string | null)[]>(subjects.map((s) => s.subjectId));
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
      {subjects.map((s) => (
        <TickField
          key={s.subjectId}
          label={s.name}
          checked={chosen.includes(s.subjectId)}
          onCommit={(on) => setChosen(on ? [...chosen, s.subjectId] : chosen.filter((c) => c !== s.subjectId))}
        />
      ))}
      <Button
        rank="main"
        disabled={chosen.length === 0}
        onClick={() => onEnter({ ...NOTHING, state: "done", doneOf: [...chosen] })}
      >
        Note it
      </Button>
      <Button rank="quiet" onClick={onLeave}>
        Leave it
      </Button>
    </div>
  );
}

function NoteForm({ look, onEnter, onLeave }: FormProps & { look: VisitLook }) {
  const { siteId } = useWorkspace("siteId");
  const [note, setNote] = useState(look.note);
  const { photos, sending, wrong, take } = usePhotos(siteId);
  const photoIds = [...look.photoIds, ...photos.map((p) => p.id)];
  return (
    <div className="mt-2 grid gap-2">
      <NoteField label="Note" most={1000} value={note} onCommit={setNote} />
      <div className="flex flex-wrap items-center gap-2">
        <Button
          rank="main"
          disabled={sending}
          onClick={() => onEnter({ ...NOTHING, state: look.state, note, photoIds })}
        >
          Note it
        </Button>
        <PhotoPart photos={photos} sending={sending} take={take} />
        <Button rank="quiet" onClick={onLeave}>
          Leave it
        </Button>
      </div>
      {wrong && <Problem>{wrong}</Problem>}
    </div>
  );
}
