import type { Along } from "@/contracts/along";
import type { AlarmEntry } from "@/contracts/alarms";
import type { Entered, EnteredKind } from "@/contracts/entries";
import type { VisitView } from "@/contracts/visits";
import type { WalkView } from "@/contracts/walks";
import type { WaitingEntry } from "./phone-db";

type Of<K extends EnteredKind> = Extract<Entered, { kind: K }>;
type By = { id: string; at: string; name: string };

/** A site as it will stand once what waits is sent: what met a newer state is left out of it. @param name of whoever entered it */
export function withWaiting(pack: Along, entries: readonly WaitingEntry[], name: string): Along {
  return entries
    .filter((e) => e.siteId === pack.siteId && (e.state === "waiting" || e.state === "sent"))
    .reduce((site, { id, at, what }) => (ADDS[what.kind] as Add)(site, what, { id, at, name }), pack);
}

type Add = (site: Along, what: Entered, by: By) => Along;
const ADDS: { [K in EnteredKind]: (site: Along, what: Of<K>, by: By) => Along } = {
  walkBegin: (site, { walkId, stationIds }, { at, name }) =>
    site.walks.some((w) => w.id === walkId)
      ? site
      : { ...site, walks: [begunWalk(walkId, stationIds, at, name), ...site.walks] },
  walkLook: (site, { kind: _, walkId, ownerId, due, ...look }, { id, at, name }) => {
    const walks = changed(site.walks, walkId, (w) => ({
      ...w,
      looked: [...w.looked.filter((l) => l.stationId !== look.stationId), { ...look, id, at, by: name }],
    }));
    if (look.state !== "problem" || site.todos.some((t) => t.id === id)) return { ...site, walks };
    const station = site.file.stations.find((s) => s.id === look.stationId);
    const words = [station ? `${station.number} ${station.name}` : look.stationId, look.note]
      .filter(Boolean)
      .join(": ");
    return {
      ...site,
      walks,
      todos: [
        ...site.todos,
        todo(site, { id, words, subjectId: look.stationId, ownerId, due, photoIds: look.photoIds, at, name }),
      ],
    };
  },
  walkEnd: (site, { walkId, note }, { at }) => ({
    ...site,
    walks: changed(site.walks, walkId, (w) => ({ ...w, endedAt: at, note })),
  }),
  visitBegin: (site, { visitId, checklistId }, { at, name }) => {
    const list = site.setup.checklists.find((c) => c.id === checklistId);
    if (!list || site.visits.some((v) => v.id === visitId)) return site;
    const visit: VisitView = {
      id: visitId,
      checklistId,
      name: list.name,
      lines: list.lines,
      begunAt: at,
      endedAt: null,
      note: "",
      by: name,
      mine: true,
      looked: [],
    };
    return { ...site, visits: [visit, ...site.visits] };
  },
  visitLook: (site, { visitId, lineId, state, note, photoIds, todo: made }, { id, at, name }) => {
    const visits = changed(site.visits, visitId, (v) => ({
      ...v,
      looked: [...v.looked.filter((l) => l.lineId !== lineId), { id, lineId, state, note, photoIds, at, by: name }],
    }));
    if (!made || site.todos.some((t) => t.id === id)) return { ...site, visits };
    return {
      ...site,
      visits,
      todos: [...site.todos, todo(site, { id, subjectId: null, photoIds, at, name, ...made })],
    };
  },
  visitEnd: (site, { visitId, note }, { at }) => ({
    ...site,
    visits: changed(site.visits, visitId, (v) => ({ ...v, endedAt: at, note: note || v.note })),
  }),
  alarm: (site, { alarmId, act }, { id, at, name }) => ({
    ...site,
    alarms: changed(site.alarms, alarmId, (a) => {
      if (act.action === "acknowledge")
        return a.state === "open" ? { ...a, state: "acknowledged", acknowledgedAt: at, acknowledgedByName: name } : a;
      if (act.action === "clear")
        return { ...a, state: "cleared", cause: act.cause, clearedAt: at, clearedByName: name };
      return act.action === "cause" ? { ...a, cause: act.cause } : a;
    }),
    entries: [...site.entries, alarmEntry(alarmId, act, { id, at, name })],
  }),
  todoDone: (site, { todoId }) => ({ ...site, todos: site.todos.filter((t) => t.id !== todoId) }),
  flow: (site) => site,
  proof: (site) => site,
  meter: (site) => site,
};

const begunWalk = (id: string, stationIds: string[], begunAt: string, by: string): WalkView => ({
  id,
  stationIds,
  begunAt,
  endedAt: null,
  note: "",
  by,
  mine: true,
  looked: [],
});

function changed<T extends { id: string }>(all: T[], id: string, change: (one: T) => T): T[] {
  return all.map((one) => (one.id === id ? change(one) : one));
}

type Made = {
  id: string;
  words: string;
  subjectId: string | null;
  ownerId: string | null;
  due: string | null;
  photoIds: string[];
  at: string;
  name: string;
};
/** As the office makes it: its first version. */
function todo(site: Along, { at, name, ...made }: Made): Along["todos"][number] {
  const owner = site.people.find((p) => p.id === made.ownerId)?.name ?? null;
  return { ...made, owner, visitId: null, madeBy: name, madeAt: at, done: null, version: 1 };
}

const DID: Record<Of<"alarm">["act"]["action"], string> = {
  acknowledge: "acknowledged",
  cause: "cause",
  note: "note",
  photo: "photo",
  clear: "cleared",
};
function alarmEntry(alarmId: string, act: Of<"alarm">["act"], { id, at, name }: By): AlarmEntry {
  const words = "words" in act ? act.words : "";
  const said = "cause" in act ? act.cause : words;
  return { id, alarmId, at, madeByName: name, action: DID[act.action], words: said, hasPhoto: false };
}
