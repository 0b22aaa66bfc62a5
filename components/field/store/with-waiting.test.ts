import { describe, expect, it } from "vitest";
import type { Along } from "@/contracts/along";
import type { Alarm } from "@/contracts/alarms";
import type { Entered } from "@/contracts/entries";
import { USUAL_CHECKLISTS } from "@/core/visits/checklists";
import { USUAL_RULES } from "@/core/visits/duties";
import { smallSite } from "@/testing/small-site";
import type { WaitingEntry } from "./phone-db";
import { withWaiting } from "./with-waiting";

const alarm = { id: "a1", state: "open", cause: null, locked: [], subjectId: "s1" } as unknown as Alarm;
const pack: Along = {
  shape: 1,
  siteId: "site-1",
  at: "2026-07-15T08:00:00Z",
  version: 1,
  file: smallSite(),
  role: "technician",
  alarms: [alarm],
  entries: [],
  people: [{ id: "maren", name: "Maren" }],
  visits: [],
  setup: { checklists: [...USUAL_CHECKLISTS], duties: USUAL_RULES, version: 0 },
  walks: [],
  todos: [],
  due: [],
  gateway: null,
};
let seq = 0;
const waits = (what: Entered, more: Partial<WaitingEntry> = {}): WaitingEntry => ({
  seq: ++seq,
  id: `e${seq}`,
  at: `2026-07-15T09:00:0${seq % 10}Z`,
  siteId: "site-1",
  by: "tolly",
  subject: "",
  state: "waiting",
  what,
  ...more,
});
const shown = (...entries: WaitingEntry[]): Along => withWaiting(pack, entries, "Tolly");
const look = (stationId: string, more: Partial<Extract<Entered, { kind: "walkLook" }>> = {}): Entered => ({
  kind: "walkLook",
  walkId: "w1",
  stationId,
  state: "fine",
  problem: null,
  readLpm: null,
  note: "",
  photoIds: [],
  ownerId: null,
  due: null,
  ...more,
});
const begin: Entered = { kind: "walkBegin", walkId: "w1", stationIds: ["s1", "s2"] };

describe("a site with what waits", () => {
  it("shows a walk, the newest of each station, and its problems as what is to do", () => {
    const problem = waits(look("s1", { state: "problem", problem: "leak", note: "by the gate", ownerId: "maren" }));
    const { walks, todos } = shown(waits(begin), waits(look("s1")), problem, waits(look("s2", { state: "skipped" })));
    expect(walks[0]).toMatchObject({ id: "w1", mine: true, by: "Tolly", endedAt: null });
    expect(walks[0]?.looked.map((l) => [l.stationId, l.state])).toEqual([
      ["s1", "problem"],
      ["s2", "skipped"],
    ]);
    expect(todos).toMatchObject([{ id: problem.id, words: "1 S1: by the gate", owner: "Maren", version: 1 }]);
    expect(shown(waits(begin), waits({ kind: "walkEnd", walkId: "w1", note: "dry" })).walks[0]).toMatchObject({
      note: "dry",
    });
  });
  it("shows a visit with the checklist as it stands, and what of it is to do", () => {
    const visitLook: Entered = {
      kind: "visitLook",
      visitId: "v1",
      lineId: "pump",
      state: "problem",
      note: "hums",
      photoIds: [],
      doneOf: [],
      todo: { words: "Pump hums", ownerId: null, due: null },
    };
    const { visits, todos } = shown(
      waits({ kind: "visitBegin", visitId: "v1", checklistId: "monthly" }),
      waits(visitLook),
      waits({ kind: "visitEnd", visitId: "v1", note: "" }),
    );
    expect(visits[0]).toMatchObject({ name: "Monthly", looked: [{ lineId: "pump", state: "problem" }] });
    expect(visits[0]?.endedAt).not.toBeNull();
    expect(todos.map((t) => t.words)).toEqual(["Pump hums"]);
    expect(shown(waits({ kind: "visitBegin", visitId: "v1", checklistId: "gone" })).visits).toEqual([]);
  });
  it("shows what was done about an alarm", () => {
    const act = (done: Extract<Entered, { kind: "alarm" }>["act"]) =>
      waits({ kind: "alarm", alarmId: "a1", act: done });
    expect(shown(act({ action: "acknowledge" })).alarms[0]).toMatchObject({
      state: "acknowledged",
      acknowledgedByName: "Tolly",
    });
    expect(shown(act({ action: "cause", cause: "split" })).alarms[0]).toMatchObject({ state: "open", cause: "split" });
    const cleared = shown(
      act({ action: "note", words: "wet" }),
      act({ action: "clear", cause: "split", repaired: true }),
    );
    expect(cleared.alarms[0]).toMatchObject({ state: "cleared", cause: "split" });
    expect(cleared.entries.map((e) => [e.action, e.words])).toEqual([
      ["note", "wet"],
      ["cleared", "split"],
    ]);
  });
  it("leaves out what met a newer state, what was refused, and what is of another site", () => {
    expect(
      shown(waits(begin, { state: "met" }), waits(begin, { state: "refused" }), waits(begin, { siteId: "other" }))
        .walks,
    ).toEqual([]);
    expect(shown(waits(begin, { state: "sent" })).walks).toHaveLength(1);
  });
  it("counts nothing twice that the office has shown already", () => {
    const once = shown(waits(begin), waits(look("s1", { state: "problem", problem: "leak" }), { id: "p1" }));
    const twice = withWaiting(
      once,
      [waits(begin), waits(look("s1", { state: "problem", problem: "leak" }), { id: "p1" })],
      "Tolly",
    );
    expect([twice.walks.length, twice.todos.length, twice.walks[0]?.looked.length]).toEqual([1, 1, 1]);
  });
});
