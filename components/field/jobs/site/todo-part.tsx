"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import type { Todo } from "@/contracts/visits";
import { Big, Part, Thumb, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";

/** What is to do here; one press and a few words where it is done. */
export function TodoPart() {
  const t = useTranslations("site");
  const { site } = useSiteHere();
  return (
    <Part title={t("todo")}>
      {site.todos.length === 0 && <p>{t("nothingTodo")}</p>}
      <ul>
        {site.todos.map((todo) => (
          <OneTodo key={todo.id} todo={todo} />
        ))}
      </ul>
    </Part>
  );
}

function OneTodo({ todo }: { todo: Todo }) {
  const t = useTranslations("site");
  const { siteId, conventions, mayEnter, enter } = useSiteHere();
  const draft = `todo ${siteId} ${todo.id}`;
  const [words, setWords] = useKept(draft, "");
  const [opened, setOpened] = useState(false);
  const facts = [
    todo.owner && t("owner", { name: todo.owner }),
    todo.due && t("due", { date: conventions.short(todo.due) }),
  ].filter(Boolean);
  const done = (): void =>
    void enter({ kind: "todoDone", todoId: todo.id, version: todo.version, words: words.trim() }, todo.words, draft);
  return (
    <li className="border-b border-base-300 py-2 last:border-0">
      <div className="flex items-center gap-3">
        <div className="min-w-0 grow">
          <p className="text-lg leading-snug">{todo.words}</p>
          <p className="text-sm text-faint">{facts.join(", ")}</p>
        </div>
        {todo.photoIds.map((id) => (
          <Thumb key={id} id={id} />
        ))}
        {mayEnter && !opened && <Big onClick={() => setOpened(true)}>{t("done")}</Big>}
      </div>
      {opened && (
        <>
          <Words label={t("doneHow")} value={words} most={500} onChange={setWords} />
          <div className="grid grid-cols-2 gap-2">
            <Big rank="main" onClick={done}>
              {t("doneIt")}
            </Big>
            <Big onClick={() => setOpened(false)}>{t("leave")}</Big>
          </div>
        </>
      )}
    </li>
  );
}
