"use client";
import { Trash2 } from "lucide-react";
import { useId, useState } from "react";
import { useDue } from "@/components/data/use-visits";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button, ButtonLink, IconButton } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Scroller } from "@/components/kit/scroller";
import { Table, ToolsHead } from "@/components/kit/table";
import { TakenAway } from "@/components/kit/taken-away";
import { dueCsv } from "@/components/words/record-csv";
import type { DutyRecord } from "@/contracts/visits";
import { DUTY_KINDS, type DueDay } from "@/core/visits/duties";

type There = ReturnType<typeof useDue>;
/** Where what the settings tell by themselves is done. */
const WHERE: Partial<Record<DueDay["duty"], string>> = { sensorProof: "sensors", learning: "learn" };

/** What has to be done anew, the earliest first, each with when it was done last; done is noted here, or on a visit. */
export function DuePart({ today }: { today: string }) {
  const { siteId, draft, canEdit } = useWorkspace("siteId", "draft", "canEdit");
  const { view, problem, note, takeOut } = useDue(siteId);
  if (problem) return <Problem>{problem}</Problem>;
  if (!view) return <p role="status">Looking up what is due…</p>;
  return (
    <>
      {view.due.length === 0 ? (
        <p>Nothing here has to be done anew. What is asked for is set on Organisation, Visits.</p>
      ) : (
        <Scroller>
          <Table aria-label="Due anew">
            <thead>
              <tr>
                <th>What</th>
                <th>Of</th>
                <th>Done last</th>
                <th>Due</th>
                {canEdit && <ToolsHead />}
              </tr>
            </thead>
            <tbody>
              {view.due.map((d) => (
                <DueRow
                  key={`${d.duty} ${d.subjectId}`}
                  due={d}
                  late={d.on < today}
                  today={today}
                  note={canEdit ? note : null}
                />
              ))}
            </tbody>
          </Table>
        </Scroller>
      )}
      {view.due.length + view.done.length > 0 && (
        <div className="flex">
          <TakenAway csv={() => dueCsv(view, draft)} of="what is due" name={`${fileStem(draft)}-due`} />
        </div>
      )}
      {note.error && <Problem>{note.error.message}</Problem>}
      {view.done.length > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer">What was noted as done: {view.done.length}</summary>
          <DoneList done={view.done} due={view.due} onTakeOut={canEdit ? (id) => takeOut.mutate(id) : null} />
        </details>
      )}
      {takeOut.error && <Problem>{takeOut.error.message}</Problem>}
    </>
  );
}

function DueRow({
  due: d,
  late,
  today,
  note,
}: {
  due: DueDay;
  late: boolean;
  today: string;
  note: There["note"] | null;
}) {
  const { siteId } = useWorkspace("siteId");
  const { date } = useConventions();
  const [opened, setOpened] = useState(false);
  const where = WHERE[d.duty];
  const kind = DUTY_KINDS[d.duty].words;
  return (
    <>
      <tr>
        <td>{kind}</td>
        <td>{d.name || "the site"}</td>
        <td className={d.last ? "" : "text-faint"}>{d.last ? date(d.last) : "nobody has noted it"}</td>
        <td className={late ? "font-semibold text-error" : ""}>
          {date(d.on)}
          {late && " (overdue)"}
        </td>
        {note && (
          <td className="text-right">
            {where ? (
              <ButtonLink rank="quiet" href={`/sites/${siteId}/${where}`}>
                Go there
              </ButtonLink>
            ) : (
              <Button
                rank="quiet"
                aria-label={`Note that it was done: ${kind}${d.name ? ` of ${d.name}` : ""}`}
                onClick={() => setOpened(!opened)}
              >
                It was done…
              </Button>
            )}
          </td>
        )}
      </tr>
      {note && opened && (
        <tr>
          <td colSpan={5}>
            <DoneForm due={d} today={today} note={note} onLeave={() => setOpened(false)} />
          </td>
        </tr>
      )}
    </>
  );
}

function DoneForm({
  due: d,
  today,
  note,
  onLeave,
}: {
  due: DueDay;
  today: string;
  note: There["note"];
  onLeave: () => void;
}) {
  const id = useId();
  const [on, setOn] = useState(today);
  const [words, setWords] = useState("");
  const keep = (): void =>
    note.mutate({ id: crypto.randomUUID(), duty: d.duty, subjectId: d.subjectId, on, words }, { onSuccess: onLeave });
  return (
    <div className="flex flex-wrap items-end gap-3">
      <DateField label="Done on" required max={today} value={on} onCommit={(v) => v && setOn(v)} className="w-44" />
      <Labelled id={id} label="Note" className="grow basis-52">
        <Input id={id} maxLength={500} value={words} onChange={(e) => setWords(e.target.value)} />
      </Labelled>
      <Button rank="main" disabled={note.isPending} onClick={keep}>
        Note it
      </Button>
      <Button rank="quiet" onClick={onLeave}>
        Leave it
      </Button>
      {d.duty === "backflow" && (
        <p className="basis-full text-faint" role="note">
          A certified tester makes the test, and the local code says how often and where its paper goes.
        </p>
      )}
    </div>
  );
}

function DoneList({
  done,
  due,
  onTakeOut,
}: {
  done: readonly DutyRecord[];
  due: readonly DueDay[];
  onTakeOut: ((id: string) => void) | null;
}) {
  const { date } = useConventions();
  return (
    <ul aria-label="Noted as done">
      {done.map((d) => {
        const name = due.find((x) => x.duty === d.duty && x.subjectId === d.subjectId)?.name;
        return (
          <li key={d.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-base-300 py-1">
            <span className="grow">
              {DUTY_KINDS[d.duty].words}
              {name ? `, ${name}` : ""} {d.words && <span className="text-faint">{d.words}</span>}
            </span>
            <span className="text-faint">
              {date(d.on)}, {d.by}
            </span>
            {onTakeOut && (
              <IconButton
                label={`Take out: ${DUTY_KINDS[d.duty].words} of ${date(d.on)}`}
                icon={Trash2}
                onClick={() => onTakeOut(d.id)}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
}
