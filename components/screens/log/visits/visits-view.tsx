"use client";
import { useMemo, useState } from "react";
import { useVisits } from "@/components/data/use-visits";
import { useWorkspace } from "@/components/draft/site-draft";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { ChoiceField, NoteField } from "@/components/kit/fields";
import { Caution, Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { TakenAway } from "@/components/kit/taken-away";
import { visitsCsv } from "@/components/words/record-csv";
import type { VisitBook, VisitSetup, VisitView } from "@/contracts/visits";
import { dutySubjects } from "@/core/visits/duties";
import { type Entered, VisitLine } from "./visit-line";
import { WalksPart } from "./walks-part";

type Enter = ReturnType<typeof useVisits>["enter"];

/** Who was here, when, and what they looked at; the visit that is on stands first. */
export function VisitsView() {
  const { siteId, draft, canEdit } = useWorkspace("siteId", "draft", "canEdit");
  const { book, problem, begin, enter } = useVisits(siteId);
  const [at, setAt] = useScreenParam<string>("at", "", { add: false });
  if (problem) return <Problem>{problem}</Problem>;
  if (!book) return <p role="status">Reading the visits…</p>;
  const opened =
    book.visits.find((v) => v.id === at) ?? book.visits.find((v) => v.mine && v.endedAt === null) ?? book.visits[0];
  const onBegin = (checklistId: string): void => {
    const id = crypto.randomUUID();
    begin.mutate({ id, checklistId, begunAt: new Date().toISOString() }, { onSuccess: () => setAt(id) });
  };
  return (
    <div className="grid max-w-5xl gap-6">
      {canEdit && <Begin setup={book.setup} busy={begin.isPending} onBegin={onBegin} />}
      {begin.error && <Problem>{begin.error.message}</Problem>}
      {opened && <OneVisit key={opened.id} visit={opened} people={book.people} enter={enter} canEdit={canEdit} />}
      <AllVisits book={book} at={opened?.id ?? ""} onOpen={setAt} />
      {book.visits.length > 0 && (
        <div className="-mt-4 flex">
          <TakenAway csv={() => visitsCsv(book.visits)} of="the visits" name={`${fileStem(draft)}-visits`} />
        </div>
      )}
      {book.walks.length > 0 && <WalksPart walks={book.walks} at={at} />}
    </div>
  );
}

function Begin({ setup, busy, onBegin }: { setup: VisitSetup; busy: boolean; onBegin: (checklistId: string) => void }) {
  const [chosen, setChosen] = useState(setup.checklists[0]?.id ?? "");
  return (
    <div className="flex flex-wrap items-end gap-3">
      <ChoiceField
        label="Kind of visit"
        value={chosen}
        options={setup.checklists.map((c) => [c.id, c.name] as const)}
        onCommit={setChosen}
        className="min-w-52"
      />
      <Button rank="main" disabled={busy} onClick={() => onBegin(chosen)}>
        Begin a visit
      </Button>
    </div>
  );
}

function OneVisit({
  visit,
  people,
  enter,
  canEdit,
}: {
  visit: VisitView;
  people: VisitBook["people"];
  enter: Enter;
  canEdit: boolean;
}) {
  const { draft } = useWorkspace("draft");
  const { momentAt } = useConventions();
  const subjects = useMemo(() => dutySubjects(draft), [draft]);
  const mine = canEdit && visit.mine;
  const left = visit.lines.filter((l) => !visit.looked.some((k) => k.lineId === l.id)).length;
  const onEnter = async (lineId: string, entered: Entered): Promise<boolean> =>
    enter
      .mutateAsync({
        visitId: visit.id,
        entries: [{ id: crypto.randomUUID(), lineId, at: new Date().toISOString(), ...entered }],
      })
      .then(
        () => true,
        () => false,
      );
  return (
    <section aria-label={`${visit.name} of ${momentAt(visit.begunAt)}`}>
      <h3 className="text-lg">
        {visit.name}{" "}
        <span className="text-base text-faint">
          {momentAt(visit.begunAt)}, {visit.by}
          {visit.endedAt ? `, ended ${momentAt(visit.endedAt)}` : ""}
        </span>
      </h3>
      {mine && visit.endedAt === null && visit.checklistId === "autumn" && (
        <Caution>
          Compressed air bursts pipes and injures: its pressure is the pipe maker's to say, and nobody stands over a
          valve box meanwhile.
        </Caution>
      )}
      <ul aria-label="Checklist">
        {visit.lines.map((line) => (
          <VisitLine
            key={line.id}
            line={line}
            look={visit.looked.find((l) => l.lineId === line.id) ?? null}
            subjects={subjects.filter((s) => s.duty === line.duty)}
            people={people}
            onEnter={mine ? (entered) => onEnter(line.id, entered) : null}
          />
        ))}
      </ul>
      {mine ? (
        <div className="mt-3 grid gap-2">
          <NoteField
            label="About the visit"
            most={4000}
            value={visit.note}
            onCommit={(note) => enter.mutate({ visitId: visit.id, entries: [], note })}
          />
          {visit.endedAt === null && (
            <div className="flex flex-wrap items-center gap-3">
              <Button
                rank="main"
                disabled={enter.isPending}
                onClick={() => enter.mutate({ visitId: visit.id, entries: [], endedAt: new Date().toISOString() })}
              >
                End the visit
              </Button>
              <span className="text-faint" role="status">
                {left === 0 ? "every line is entered" : `${left} of ${visit.lines.length} lines not entered yet`}
              </span>
            </div>
          )}
        </div>
      ) : (
        visit.note !== "" && <p className="mt-2 max-w-prose whitespace-pre-line">{visit.note}</p>
      )}
      {enter.error && <Problem className="mt-2">{enter.error.message}</Problem>}
    </section>
  );
}

function AllVisits({ book, at, onOpen }: { book: VisitBook; at: string; onOpen: (id: string) => void }) {
  const { momentAt } = useConventions();
  if (book.visits.length === 0) return <p className="text-faint">Nobody has been here yet, as far as Presa knows.</p>;
  return (
    <Scroller>
      <Table aria-label="Visits">
        <thead>
          <tr>
            <th>Visit</th>
            <th>Begun</th>
            <th>Who</th>
            <th>Ended</th>
            <th className="text-right">Looked at</th>
            <th className="text-right">Not in order</th>
          </tr>
        </thead>
        <tbody>
          {book.visits.map((v) => (
            <tr key={v.id} aria-current={v.id === at ? "true" : undefined}>
              <td>
                <Button rank="quiet" className="px-0" onClick={() => onOpen(v.id)}>
                  {v.name}
                </Button>
              </td>
              <td className="whitespace-nowrap">{momentAt(v.begunAt)}</td>
              <td>{v.by}</td>
              <td className="whitespace-nowrap">{v.endedAt ? momentAt(v.endedAt) : "still on"}</td>
              <td className="text-right tabular-nums">
                {v.looked.filter((l) => l.state !== "left").length} of {v.lines.length}
              </td>
              <td className="text-right tabular-nums">{v.looked.filter((l) => l.state === "problem").length}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}
