"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { TickField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import type { VisitLook } from "@/contracts/visits";
import type { ChecklistLine, Looked } from "@/core/visits/checklists";
import { DUTY_KINDS, type DutySubject } from "@/core/visits/duties";
import { Big, Photos, Thumb, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { usualLine } from "./visit-words";

type Typed = { words: string; photoIds: string[] };
const NOTHING: Typed = { words: "", photoIds: [] };
type More = { note?: string; photoIds?: string[]; doneOf?: (string | null)[]; todo?: string };

/** A line of the checklist: one press where it is in order; what is not asks what is to do. */
export function VisitLine({
  visitId,
  line,
  look,
  subjects,
}: {
  visitId: string;
  line: ChecklistLine;
  look: VisitLook | null;
  subjects: readonly DutySubject[];
}) {
  const t = useTranslations("visit");
  const { mayEnter, enter } = useSiteHere();
  const usual = usualLine(line);
  const words = usual ? t(`lines.${usual}`) : line.words;
  const draft = `visit ${visitId} line ${line.id}`;
  const [opened, setOpened] = useState<"problem" | "done" | null>(null);
  const renews = line.duty !== null && DUTY_KINDS[line.duty].noted && subjects.length > 0;
  const say = (state: Looked, { note = "", photoIds = [], doneOf = [], todo }: More = {}): void => {
    const made = todo === undefined ? null : { words: todo, ownerId: null, due: null };
    const what = { kind: "visitLook" as const, visitId, lineId: line.id, state, note, photoIds, doneOf, todo: made };
    void enter(what, words, draft);
    setOpened(null);
  };
  const choose = (state: Looked): void => {
    if (state === "problem" || (state === "done" && subjects.length > 1)) setOpened(state);
    else say(state, { doneOf: state === "done" ? subjects.map((s) => s.subjectId) : [] });
  };
  const states: Looked[] = renews ? ["ok", "done", "problem", "left"] : ["ok", "problem", "left"];
  return (
    <li className="border-b border-base-300 py-3">
      <p className="mb-1.5 text-lg">{words}</p>
      <div role="group" aria-label={words} className={renews ? "grid grid-cols-2 gap-2" : "grid grid-cols-3 gap-2"}>
        {states.map((s) => {
          const on = (opened ?? look?.state) === s;
          return (
            <Big
              key={s}
              rank={on ? "main" : "plain"}
              aria-pressed={on}
              className="min-h-12 px-1 text-base"
              disabled={!mayEnter}
              onClick={() => choose(s)}
            >
              {t(s)}
            </Big>
          );
        })}
      </div>
      {look && (look.note !== "" || look.photoIds.length > 0) && opened === null && (
        <p className="mt-1 flex flex-wrap items-center gap-2 text-faint">
          {look.note}
          {look.photoIds.map((id) => (
            <Thumb key={id} id={id} />
          ))}
        </p>
      )}
      {opened === "problem" && (
        <ProblemPart
          draft={draft}
          onKeep={({ words: todo, photoIds }) => say("problem", { note: todo, photoIds, todo })}
          onLeave={() => setOpened(null)}
        />
      )}
      {opened === "done" && (
        <DonePart subjects={subjects} onKeep={(doneOf) => say("done", { doneOf })} onLeave={() => setOpened(null)} />
      )}
    </li>
  );
}

function ProblemPart({
  draft,
  onKeep,
  onLeave,
}: {
  draft: string;
  onKeep: (typed: Typed) => void;
  onLeave: () => void;
}) {
  const t = useTranslations("visit");
  const w = useTranslations("walk");
  const [typed, setTyped] = useKept(draft, NOTHING);
  const [missing, setMissing] = useState(false);
  const keep = (): void => {
    const words = typed.words.trim();
    if (words === "") setMissing(true);
    else onKeep({ ...typed, words });
  };
  return (
    <div className="mt-1">
      <Words
        label={t("whatTodo")}
        value={typed.words}
        most={500}
        onChange={(words) => {
          setMissing(false);
          setTyped({ ...typed, words });
        }}
      />
      {missing && <Problem>{t("needWords")}</Problem>}
      <Photos name={w("photoName")} ids={typed.photoIds} onChange={(photoIds) => setTyped({ ...typed, photoIds })} />
      <div className="grid grid-cols-2 gap-2">
        <Big rank="main" onClick={keep}>
          {w("keep")}
        </Big>
        <Big onClick={onLeave}>{w("leave")}</Big>
      </div>
    </div>
  );
}

/** Of which it was done anew. */
function DonePart({
  subjects,
  onKeep,
  onLeave,
}: {
  subjects: readonly DutySubject[];
  onKeep: (of: (string | null)[]) => void;
  onLeave: () => void;
}) {
  const t = useTranslations("visit");
  const w = useTranslations("walk");
  const [chosen, setChosen] = useState(subjects.map((s) => s.subjectId));
  return (
    <fieldset className="mt-2 grid gap-1">
      <legend className="text-sm text-faint">{t("of")}</legend>
      {subjects.map((s) => (
        <div key={s.subjectId} className="flex min-h-12 items-center text-lg">
          <TickField
            label={s.name}
            checked={chosen.includes(s.subjectId)}
            onCommit={(on) => setChosen(on ? [...chosen, s.subjectId] : chosen.filter((c) => c !== s.subjectId))}
          />
        </div>
      ))}
      <div className="grid grid-cols-2 gap-2">
        <Big rank="main" disabled={chosen.length === 0} onClick={() => onKeep(chosen)}>
          {t("done")}
        </Big>
        <Big onClick={onLeave}>{w("leave")}</Big>
      </div>
    </fieldset>
  );
}
