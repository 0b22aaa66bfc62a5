import type { VisitEntry } from "../../contracts/visits.ts";
import { addDays, instantOf, localDate } from "../../core/dates/wall-time.ts";
import { expectedMa } from "../../core/wiring/valve-check.ts";
import type { SignedIn } from "../auth/session.ts";
import { noteDutyDone } from "../services/duties.ts";
import { loadSite } from "../services/sites.ts";
import { changeTodo, makeTodo, siteTodos } from "../services/todos.ts";
import { keepValveCheck } from "../services/valve-checks.ts";
import { beginVisit, enterVisit } from "../services/visits.ts";

type People = { maren: SignedIn; tolly: SignedIn };
type Look = Pick<VisitEntry, "lineId" | "state"> & Partial<VisitEntry>;
type Visited = {
  fileId: string;
  ago: number;
  at: string;
  checklistId: string;
  note: string;
  looks: (today: string, people: People) => Look[];
};

const ok = (...ids: string[]): Look[] => ids.map((lineId) => ({ lineId, state: "ok" }));

const VISITS: readonly Visited[] = [
  {
    fileId: "quarrel-hill",
    ago: 33,
    at: "08:40",
    checklistId: "monthly",
    note: "",
    looks: () => ok("automatic", "clock", "weather", "alarms", "boxes", "heads", "strainer", "pump", "leaks"),
  },
  {
    fileId: "quarrel-hill",
    ago: 4,
    at: "09:10",
    checklistId: "monthly",
    note: "Ground soft along the lower walk; looked at again when the leak test is repeated.",
    looks: (today, { tolly, maren }) => [
      ...ok("automatic", "clock", "alarms", "strainer", "pump"),
      {
        lineId: "weather",
        state: "problem",
        note: "Rain switch bypassed since the repair",
        todo: {
          words: "Take the rain switch off bypass once the new one is in",
          ownerId: tolly.userId,
          due: addDays(today, -1),
        },
      },
      {
        lineId: "boxes",
        state: "problem",
        note: "Lid of the box at station 12 cracked",
        todo: { words: "New lid for the valve box of station 12", ownerId: maren.userId, due: addDays(today, 9) },
      },
      { lineId: "leaks", state: "left", note: "Too wet to tell" },
    ],
  },
  {
    fileId: "larkspur-clinic",
    ago: 12,
    at: "07:55",
    checklistId: "repair",
    note: "Lateral of station 3 cut by a spade, mended with a slip coupling.",
    looks: () => ok("found", "mended", "flushed", "flow", "alarms"),
  },
];

/** What was done anew, days ago; some of it is due again. */
const DONE: readonly (readonly [fileId: string, subjectId: string, ago: number, words: string])[] = [
  ["larkspur-clinic", "lc-bf", 380, "passed; paper with the office"],
  ["quarrel-hill", "qh-bf", 120, "passed"],
  ["sallow-court", "sc-bf", 351, "passed after a new check valve"],
];

/** Visits, what they left to do, and tests of backflow preventers, as of some days before now. */
export async function loadDemoVisits(people: People, loaded: ReadonlyMap<string, string>, now: Date): Promise<void> {
  const { tolly, maren } = people;
  const idOf = (fileId: string): string => loaded.get(fileId) as string;
  for (const { fileId, ago, at, checklistId, note, looks } of VISITS) {
    const siteId = idOf(fileId);
    const { timeZone } = (await loadSite(tolly, siteId)).file.site;
    const today = localDate(timeZone, now.getTime() / 1000);
    const begun = instantOf(timeZone, addDays(today, -ago), at);
    const after = (minutes: number): string => new Date(1000 * (begun + 60 * minutes)).toISOString();
    const id = crypto.randomUUID();
    await beginVisit(tolly, siteId, { id, checklistId, begunAt: after(0) }, now);
    const entries = looks(today, people).map(
      (look, i): VisitEntry => ({
        id: crypto.randomUUID(),
        note: "",
        photoIds: [],
        doneOf: [],
        todo: null,
        ...look,
        at: after(4 * (i + 1)),
      }),
    );
    await enterVisit(tolly, siteId, id, { entries, endedAt: after(65), note }, now);
  }
  for (const [fileId, subjectId, ago, words] of DONE) {
    const siteId = idOf(fileId);
    const { timeZone } = (await loadSite(maren, siteId)).file.site;
    const on = addDays(localDate(timeZone, now.getTime() / 1000), -ago);
    await noteDutyDone(maren, siteId, { id: crypto.randomUUID(), duty: "backflow", subjectId, on, words }, now);
  }
  const clinic = idOf("larkspur-clinic");
  for (const [ago, change] of [
    [210, {}],
    [12, { lc5: 121, lc7: 0 }],
  ] as const)
    await keepDemoCheck(tolly, clinic, new Date(now.getTime() - ago * 86_400_000), change);
  const todo = { ownerId: tolly.userId, due: null, subjectId: null, photoIds: [] };
  await makeTodo(maren, clinic, { ...todo, id: crypto.randomUUID(), words: "Clean the filter before station 5" }, now);
  const mended = crypto.randomUUID();
  await makeTodo(tolly, clinic, { ...todo, id: mended, words: "Mark where the lateral of station 3 runs" }, now);
  const [version] = (await siteTodos(tolly, clinic)).filter((t) => t.id === mended).map((t) => t.version);
  await changeTodo(
    tolly,
    clinic,
    mended,
    { version: version as number, done: { words: "painted, and on the plan" } },
    now,
  );
}

/** A controller's valves by wire, as somebody wrote them down: each what it should draw, but for some. */
async function keepDemoCheck(user: SignedIn, siteId: string, at: Date, odd: Record<string, number>): Promise<void> {
  const { file } = await loadSite(user, siteId);
  const controllerId = file.controllers[0]?.id as string;
  const readings = file.stations
    .filter((s) => s.controllerId === controllerId)
    .map((s, i) => ({ stationId: s.id, value: odd[s.id] ?? expectedMa(s) - 6 + ((i * 7) % 13) }));
  const made = { id: crypto.randomUUID(), controllerId, unit: "mA" as const, how: "typed" as const };
  await keepValveCheck(user, siteId, { ...made, at: at.toISOString(), readings }, at);
}
