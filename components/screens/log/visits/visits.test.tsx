import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteDue, Todo, VisitBook, VisitEntry } from "@/contracts/visits";
import { USUAL_CHECKLISTS } from "@/core/visits/checklists";
import { USUAL_RULES } from "@/core/visits/duties";
import { refused, type Sent, server } from "@/testing/page-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { TodoView } from "./todo-view";
import { VisitsView } from "./visits-view";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const PEOPLE = [
  { id: "00000000-0000-4000-8000-00000000000a", name: "Ada Fennimore" },
  { id: "00000000-0000-4000-8000-00000000000b", name: "Bo Larch" },
];
const todo = (more: Partial<Todo> = {}): Todo => ({
  id: "t1",
  words: "Lid of box 4",
  ownerId: null,
  owner: null,
  due: null,
  subjectId: null,
  photoIds: [],
  visitId: null,
  madeBy: "Bo Larch",
  madeAt: "2026-07-01T08:00:00.000Z",
  done: null,
  version: 1,
  ...more,
});
let book: VisitBook;
let todos: Todo[];
let due: SiteDue;
let sent: Sent[];
let refusal: Response | null;

/** A server that keeps visits as the real one does: the newest of each line. */
function answer({ method, path, body }: Sent): unknown {
  if (method !== "GET" && refusal) return refusal;
  if (path.includes("/todos")) return { todos };
  if (path.includes("/due")) return due;
  const asked = body as {
    id?: string;
    checklistId?: string;
    begunAt?: string;
    entries?: VisitEntry[];
    endedAt?: string;
  };
  if (method === "POST" && asked.entries)
    book = {
      ...book,
      visits: book.visits.map((v) => ({
        ...v,
        endedAt: asked.endedAt ?? v.endedAt,
        looked: [
          ...v.looked.filter((l) => !asked.entries?.some((e) => e.lineId === l.lineId)),
          ...(asked.entries ?? []).map((e) => ({ ...e, by: "Ada Fennimore" })),
        ],
      })),
    };
  else if (method === "POST") {
    const list = USUAL_CHECKLISTS.find((c) => c.id === asked.checklistId);
    const visit = {
      id: asked.id as string,
      checklistId: list?.id as string,
      name: list?.name as string,
      lines: list?.lines ?? [],
    };
    const rest = {
      begunAt: asked.begunAt as string,
      endedAt: null,
      note: "",
      by: "Ada Fennimore",
      mine: true,
      looked: [],
    };
    book = { ...book, visits: [{ ...visit, ...rest }, ...book.visits] };
  }
  return book;
}
const last = (method: string): unknown => sent.findLast((s) => s.method === method)?.body;

beforeEach(() => {
  window.history.replaceState(null, "", "/sites/site/log");
  book = {
    visits: [],
    walks: [],
    people: PEOPLE,
    setup: { checklists: [...USUAL_CHECKLISTS], duties: USUAL_RULES, version: 0 },
  };
  todos = [];
  due = { due: [], done: [] };
  refusal = null;
  sent = server(answer);
});
afterEach(() => vi.unstubAllGlobals());

describe("a visit", () => {
  it("is begun from a checklist; a line in order is one press, one that is not becomes something to do", async () => {
    const { user } = renderOnSite(smallSite(), <VisitsView />);
    await user.selectOptions(await screen.findByLabelText("Kind of visit"), "Monthly");
    await user.click(screen.getByRole("button", { name: "Begin a visit" }));
    const line = (name: string): HTMLElement => screen.getByRole("group", { name });
    expect(await screen.findByText("10 of 10 lines not entered yet")).toBeInTheDocument();
    await user.click(within(line("Its clock and date are right")).getByRole("button", { name: "In order" }));
    expect(await screen.findByText("9 of 10 lines not entered yet")).toBeInTheDocument();
    expect(within(line("Its clock and date are right")).getByRole("button", { name: "In order" })).toHaveAttribute(
      "aria-pressed",
      "true",
    );

    await user.click(within(line("Valve boxes")).getByRole("button", { name: "Not in order" }));
    const form = screen.getByRole("form", { name: "Not in order: Valve boxes" });
    await user.click(within(form).getByRole("button", { name: "Note it" }));
    expect(await within(form).findByRole("alert")).toHaveTextContent("Say what is to do.");
    await user.type(within(form).getByLabelText("What is to do"), "New lid");
    await user.selectOptions(within(form).getByLabelText("Who does it"), "Bo Larch");
    await user.type(within(form).getByLabelText("By"), "2026-08-01");
    await user.click(within(form).getByRole("button", { name: "Note it" }));
    await waitFor(() =>
      expect(last("POST")).toMatchObject({
        entries: [
          {
            lineId: "boxes",
            state: "problem",
            note: "New lid",
            todo: { words: "New lid", ownerId: PEOPLE[1]?.id, due: "2026-08-01" },
          },
        ],
      }),
    );
    await user.click(screen.getByRole("button", { name: "End the visit" }));
    await waitFor(() => expect(screen.queryByRole("button", { name: "End the visit" })).toBeNull());
    expect(
      within(screen.getByRole("table", { name: "Visits" })).getByRole("row", { name: /Monthly .* 2 of 10 1/ }),
    ).toBeVisible();
  });
  it("says of which of several a yearly thing was done", async () => {
    const { user } = renderOnSite(
      smallSite((s) => s.controllers.push({ id: "two", name: "Lower shed", powered: "battery" })),
      <VisitsView />,
    );
    await user.click(await screen.findByRole("button", { name: "Begin a visit" }));
    const line = await screen.findByRole("group", { name: "Backup battery" });
    await user.click(within(line).getByRole("button", { name: "Done anew" }));
    await user.click(screen.getByRole("checkbox", { name: "Lower shed" }));
    await user.click(screen.getByRole("button", { name: "Note it" }));
    await waitFor(() =>
      expect(last("POST")).toMatchObject({ entries: [{ lineId: "battery", state: "done", doneOf: ["ctl"] }] }),
    );
    // Where there is no backflow preventer nothing of it can be done anew.
    expect(
      within(screen.getByRole("group", { name: /^Backflow test/ })).queryByRole("button", { name: "Done anew" }),
    ).toBeNull();
  });
  it("of somebody else is looked at only; what is refused is told and nothing typed is lost", async () => {
    const { user } = renderOnSite(smallSite(), <VisitsView />);
    await user.click(await screen.findByRole("button", { name: "Begin a visit" }));
    const line = await screen.findByRole("group", { name: "Valve boxes" });
    await user.click(within(line).getByRole("button", { name: "Not in order" }));
    await user.type(screen.getByLabelText("What is to do"), "New lid");
    refusal = refused(503, "databaseBusy", "The database is busy. Nothing was saved; try again.");
    await user.click(screen.getByRole("button", { name: "Note it" }));
    expect(await screen.findByText(/The database is busy/)).toBeVisible();
    expect(screen.getByLabelText("What is to do")).toHaveValue("New lid");
  });
});

describe("what is to do and due", () => {
  it("stands with who, by when and since when it is overdue; done is said with what was done, and taken back", async () => {
    todos = [
      todo({ due: "2026-07-02", ownerId: PEOPLE[1]?.id ?? null, owner: "Bo Larch" }),
      todo({ id: "t2", words: "Gone", done: { at: "2026-07-05T08:00:00.000Z", by: "Bo Larch", words: "new one" } }),
    ];
    const { user } = renderOnSite(smallSite(), <TodoView />);
    const open = await screen.findByRole("list", { name: "To do" });
    expect(within(open).getByRole("listitem")).toHaveTextContent(/Lid of box 4.*overdue since 2 Jul 2026.*Bo Larch/);
    await user.click(within(open).getByRole("button", { name: "Done…" }));
    await user.type(screen.getByLabelText("What was done"), "a new lid");
    await user.tab();
    await user.click(screen.getByRole("button", { name: "It is done" }));
    await waitFor(() => expect(last("PATCH")).toEqual({ version: 1, done: { words: "a new lid" } }));
    await user.click(screen.getByText("Done: 1"));
    await user.click(screen.getByRole("button", { name: "Not done after all" }));
    await waitFor(() => expect(last("PATCH")).toEqual({ version: 1, done: null }));
  });
  it("is entered with who and by when; a refusal is told", async () => {
    const { user } = renderOnSite(smallSite(), <TodoView />);
    const form = await screen.findByRole("form", { name: "Something to do" });
    await user.type(within(form).getByLabelText("What is to do"), "Flush the end");
    refusal = refused(409, "conflict", "Old Mill is archived. Bring it back first; nothing was changed.");
    await user.click(within(form).getByRole("button", { name: "Enter it" }));
    expect(await screen.findByText(/is archived/)).toBeVisible();
    expect(within(form).getByLabelText("What is to do")).toHaveValue("Flush the end");
    refusal = null;
    await user.click(within(form).getByRole("button", { name: "Enter it" }));
    await waitFor(() => expect(last("POST")).toMatchObject({ words: "Flush the end", ownerId: null, due: null }));
    // The same intention: had the first one come through after all, it were there once.
    const ids = sent.flatMap((s) => (s.method === "POST" ? (s.body as { id: string }).id : []));
    expect([ids.length, new Set(ids).size]).toEqual([2, 1]);
    await waitFor(() => expect(within(form).getByLabelText("What is to do")).toHaveValue(""));
  });
  it("of what is due anew is noted with its day; what the settings tell leads there", async () => {
    due = {
      due: [
        { duty: "backflow", subjectId: "rp", name: "Vault", last: null, on: "2026-03-05" },
        { duty: "learning", subjectId: null, name: "", last: "2026-05-03", on: "2099-05-03" },
      ],
      done: [{ id: "d1", duty: "backflow", subjectId: "rp", on: "2025-03-05", words: "passed", by: "Bo Larch" }],
    };
    const { user } = renderOnSite(smallSite(), <TodoView />);
    const table = await screen.findByRole("table", { name: "Due anew" });
    expect(within(table).getByRole("row", { name: /backflow test Vault nobody has noted it/ })).toHaveTextContent(
      "(overdue)",
    );
    expect(within(table).getByRole("link", { name: "Go there" })).toHaveAttribute("href", "/sites/site/learn");
    await user.click(within(table).getByRole("button", { name: /backflow test of Vault/ }));
    expect(screen.getByRole("note")).toHaveTextContent("the local code");
    await user.clear(screen.getByLabelText("Done on"));
    await user.type(screen.getByLabelText("Done on"), "2026-06-30");
    await user.click(screen.getByRole("button", { name: "Note it" }));
    await waitFor(() => expect(last("POST")).toMatchObject({ duty: "backflow", subjectId: "rp", on: "2026-06-30" }));
    await user.click(screen.getByText("What was noted as done: 1"));
    await user.click(screen.getByRole("button", { name: "Take out: backflow test of 5 Mar 2025" }));
    await waitFor(() => expect(sent.some((s) => s.method === "DELETE" && s.path.endsWith("/due/d1"))).toBe(true));
  });
  it("is looked at only by whoever changes nothing", async () => {
    todos = [todo()];
    renderOnSite(smallSite(), <TodoView />, { role: "viewer" });
    expect(await screen.findByText("Lid of box 4")).toBeVisible();
    expect(screen.queryByRole("button", { name: "Done…" })).toBeNull();
    expect(screen.queryByRole("form")).toBeNull();
  });
});
