"use client";
import { useState } from "react";
import { useTodos, useVisits } from "@/components/data/use-visits";
import { useWorkspace } from "@/components/draft/site-draft";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, TextField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { fileStem } from "@/components/kit/save-file";
import { Section } from "@/components/kit/section";
import { TakenAway } from "@/components/kit/taken-away";
import { todosCsv } from "@/components/words/record-csv";
import type { Todo } from "@/contracts/visits";
import { localDate } from "@/core/dates/wall-time";
import { DuePart } from "./due-part";
import { PhotoLinks } from "./photo-links";
import { type Person, TodoForm } from "./todo-form";

type Change = ReturnType<typeof useTodos>["change"];

/** What is to do at the site, and what has to be done anew by which day. */
export function TodoView() {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const today = localDate(draft.site.timeZone, Math.floor(Date.now() / 1000));
  return (
    <div className="max-w-5xl">
      <Section id="to-do" title="To do">
        <Todos siteId={siteId} today={today} />
      </Section>
      <Section id="due" title="Due anew">
        <DuePart today={today} />
      </Section>
    </div>
  );
}

function Todos({ siteId, today }: { siteId: string; today: string }) {
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  const { todos, problem, make, change } = useTodos(siteId);
  const { book } = useVisits(siteId);
  const [at] = useScreenParam<string>("at", "", { add: false });
  if (problem) return <Problem>{problem}</Problem>;
  if (!todos) return <p role="status">Looking up what is to do…</p>;
  const people = book?.people ?? [];
  const open = todos.filter((t) => !t.done);
  const done = todos.filter((t) => t.done);
  return (
    <>
      {canEdit && (
        <TodoForm
          label="Something to do"
          people={people}
          submit="Enter it"
          problem={make.error?.message ?? null}
          onEnter={(todo) =>
            make.mutateAsync({ subjectId: null, ...todo }).then(
              () => true,
              () => false,
            )
          }
        />
      )}
      {open.length === 0 && <p className="my-3">Nothing is to do here.</p>}
      <ul aria-label="To do" className="my-3">
        {open.map((t) => (
          <OneTodo
            key={`${t.id} ${t.version}`}
            todo={t}
            people={people}
            late={t.due !== null && t.due < today}
            chosen={t.id === at}
            change={canEdit ? change : null}
          />
        ))}
      </ul>
      {change.error && <Problem>{change.error.message}</Problem>}
      {todos.length > 0 && (
        <div className="flex">
          <TakenAway csv={() => todosCsv(todos, draft)} of="what is to do" name={`${fileStem(draft)}-to-do`} />
        </div>
      )}
      {done.length > 0 && (
        <details>
          <summary className="cursor-pointer">Done: {done.length}</summary>
          <ul aria-label="Done">
            {done.map((t) => (
              <DoneTodo key={t.id} todo={t} change={canEdit ? change : null} />
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

function OneTodo({
  todo: t,
  people,
  late,
  chosen,
  change,
}: {
  todo: Todo;
  people: readonly Person[];
  late: boolean;
  chosen: boolean;
  change: Change | null;
}) {
  const { siteId } = useWorkspace("siteId");
  const { date, dateAt } = useConventions();
  const [opened, setOpened] = useState<"change" | "done" | null>(null);
  const [words, setWords] = useState("");
  const { id, version } = t;
  const owners =
    people.some((p) => p.id === t.ownerId) || !t.ownerId ? people : [...people, { id: t.ownerId, name: t.owner ?? "" }];
  return (
    <li
      aria-current={chosen ? "true" : undefined}
      className={classes("border-b border-base-300 py-2", chosen && "bg-base-200 px-2")}
    >
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <span className="min-w-0 grow basis-72">
          <span className="font-semibold">{t.words}</span> <PhotoLinks siteId={siteId} photoIds={t.photoIds} />
        </span>
        <span className={late ? "font-semibold text-error" : "text-faint"}>
          {t.due ? `${late ? "overdue since" : "by"} ${date(t.due)}` : "no day set"}
        </span>
        <span className="text-faint">{t.owner ?? "nobody yet"}</span>
        {change && opened === null && (
          <span className="flex gap-1">
            <Button rank="plain" onClick={() => setOpened("done")}>
              Done…
            </Button>
            <Button rank="quiet" onClick={() => setOpened("change")}>
              Change
            </Button>
          </span>
        )}
      </div>
      <p className="text-xs text-faint">
        {t.madeBy}, {dateAt(t.madeAt)}
        {t.visitId ? ", found on a visit" : ""}
      </p>
      {change && opened === "done" && (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <TextField label="What was done" value={words} onCommit={setWords} className="grow basis-64" />
          <Button
            rank="main"
            disabled={change.isPending}
            onClick={() => change.mutate({ id, version, done: { words } })}
          >
            It is done
          </Button>
          <Button rank="quiet" onClick={() => setOpened(null)}>
            Leave it
          </Button>
        </div>
      )}
      {change && opened === "change" && (
        <div className="mt-2 grid gap-3 sm:grid-cols-4 sm:items-end">
          <TextField
            label="What is to do"
            className="sm:col-span-2"
            value={t.words}
            onCommit={(w) => w.trim() !== "" && change.mutate({ id, version, words: w })}
          />
          <ChoiceField
            label="Who does it"
            value={t.ownerId ?? ""}
            options={[["", "nobody yet"], ...owners.map((p) => [p.id, p.name] as const)]}
            onCommit={(o) => change.mutate({ id, version, ownerId: o || null })}
          />
          <DateField
            label="By"
            value={t.due ?? undefined}
            onCommit={(due) => change.mutate({ id, version, due: due ?? null })}
          />
          <div>
            <Button rank="quiet" onClick={() => setOpened(null)}>
              Close
            </Button>
          </div>
        </div>
      )}
    </li>
  );
}

function DoneTodo({ todo: t, change }: { todo: Todo; change: Change | null }) {
  const { siteId } = useWorkspace("siteId");
  const { dateAt } = useConventions();
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-base-300 py-1">
      <span className="min-w-0 grow basis-72">
        {t.words} <PhotoLinks siteId={siteId} photoIds={t.photoIds} />
        {t.done?.words && <span className="block text-faint">{t.done.words}</span>}
      </span>
      <span className="text-faint">
        {t.done?.by}, {t.done && dateAt(t.done.at)}
      </span>
      {change && (
        <Button rank="quiet" onClick={() => change.mutate({ id: t.id, version: t.version, done: null })}>
          Not done after all
        </Button>
      )}
    </li>
  );
}
