import type { Met } from "../../contracts/entries.ts";
import type { Todo, TodoChange, TodoMade } from "../../contracts/visits.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { noteNamed } from "../db/kept-files.ts";
import { insertTodo, patchTodo, todoOf, type TodoPatch, type TodoRow, todosOf } from "../db/todos.ts";
import { colleagues } from "../db/users.ts";
import { mustBeWorkedOn, siteOf } from "./sites.ts";

const SHOWN = 500;

const shown = ({ doneAt, doneBy, doneWords, ...row }: TodoRow): Todo => ({
  ...row,
  done: doneAt === null ? null : { at: doneAt, by: doneBy ?? "", words: doneWords ?? "" },
});

/** What is to do at a site, open first. */
export async function siteTodos(user: SignedIn, siteId: string): Promise<Todo[]> {
  await siteOf(user, siteId);
  return (await todosOf(siteId, SHOWN)).map(shown);
}

/** That somebody can be asked to do something here. */
export async function mustBeColleague(user: SignedIn, id: string | null | undefined): Promise<void> {
  if (id && !(await colleagues(user.organisationId)).some((c) => c.id === id))
    throw new AppError("badRequest", "There is no such person in your organisation. Choose another owner.");
}

/** Something is to do; asked again under its id, once. */
export async function makeTodo(user: SignedIn, siteId: string, todo: TodoMade, now: Date): Promise<Todo[]> {
  mustBeWorkedOn(await siteOf(user, siteId));
  await mustBeColleague(user, todo.ownerId);
  await inTransaction(async () => {
    await insertTodo({ organisationId: user.organisationId, siteId }, { ...todo, madeBy: user.name, madeAt: now });
    await noteNamed(siteId, todo.photoIds);
  });
  return siteTodos(user, siteId);
}

/** Changes something to do, or has it done; whoever looked at an earlier version is told what stands. */
export async function changeTodo(
  user: SignedIn,
  siteId: string,
  id: string,
  change: TodoChange,
  now: Date,
): Promise<Todo[]> {
  mustBeWorkedOn(await siteOf(user, siteId));
  await mustBeColleague(user, change.ownerId);
  if (!(await patchTodo(siteId, id, change.version, patchOf(user, change, now)))) {
    const there = await todoOf(siteId, id);
    if (!there) throw new AppError("notFound", "There is no such thing to do at this site.");
    throw new AppError(
      "conflict",
      `This has changed meanwhile: ${there.words}${there.doneBy ? `, done by ${there.doneBy}` : ""}. Look at it and say again; nothing was changed.`,
      {
        version: there.version,
        met: { why: "todo", version: there.version, words: there.words, doneBy: there.doneBy } satisfies Met,
      },
    );
  }
  return siteTodos(user, siteId);
}

function patchOf(user: SignedIn, { version: _, done, ...rest }: TodoChange, now: Date): TodoPatch {
  const said = Object.fromEntries(Object.entries(rest).filter(([, v]) => v !== undefined)) as TodoPatch;
  if (done === undefined) return said;
  return {
    ...said,
    doneAt: done ? now : null,
    doneBy: done ? user.name : null,
    doneWords: done ? done.words : null,
  };
}
