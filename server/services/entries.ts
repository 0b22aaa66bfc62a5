import type { Entered, EnteredKind, FieldEntry, Met } from "../../contracts/entries.ts";
import { visitEntry } from "../../contracts/visits.ts";
import type { ProvingRow } from "../../core/sensors/proving.ts";
import { clean } from "../../core/site-file/patch.ts";
import type { FlowSensor } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { once } from "../db/once.ts";
import { alarmNow, actOnAlarm, type AlarmAction } from "./alarms.ts";
import { keptFile } from "./kept-files.ts";
import { enterMeterReading } from "./meters.ts";
import { proposeFromOutside } from "./proposals.ts";
import { proveSensor } from "./proofs.ts";
import { siteOf } from "./sites.ts";
import { changeTodo } from "./todos.ts";
import { beginVisit, enterVisit } from "./visits.ts";
import { beginWalk, enterWalkLook, finishWalk } from "./walks.ts";

type At = { user: SignedIn; siteId: string; id: string; at: Date; now: Date };
type Of<K extends EnteredKind> = Extract<Entered, { kind: K }>;

/**
 * Takes in what somebody entered in the field, once under its id however often it is sent. What meets a newer state is refused with what it met (`met` of the details), and
 * nothing of it is kept.
 */
export async function takeEntry(user: SignedIn, siteId: string, entry: FieldEntry, now: Date): Promise<void> {
  await siteOf(user, siteId);
  // Two may use one phone: what the first entered waits for the first.
  if (entry.by !== user.userId)
    throw new AppError("notSignedIn", "Somebody else is signed in here now. Whoever entered this signs in again.");
  // A phone's clock may be wrong: nothing that was entered is refused for that.
  const at = new Date(Math.min(Date.parse(entry.at), now.getTime()));
  await once(user.organisationId, `field-${entry.id}`, () =>
    carryOut(entry.what, { user, siteId, id: entry.id, at, now }),
  );
}

const TAKES: { [K in EnteredKind]: (what: Of<K>, at: At) => Promise<unknown> } = {
  walkBegin: ({ kind: _, ...walk }, { user, siteId, at }) => beginWalk(user, siteId, walk, at),
  walkLook: ({ kind: _, ...look }, { user, siteId, id, at }) => enterWalkLook(user, siteId, id, look, at),
  walkEnd: ({ kind: _, ...end }, { user, siteId, at }) => finishWalk(user, siteId, end, at),
  visitBegin: ({ visitId, checklistId }, { user, siteId, at, now }) =>
    beginVisit(user, siteId, { id: visitId, checklistId, begunAt: at.toISOString() }, now),
  visitLook: ({ kind: _, visitId, ...look }, { user, siteId, id, at, now }) =>
    enterVisit(
      user,
      siteId,
      visitId,
      { entries: [visitEntry.parse({ ...look, id, at: at.toISOString() })], endedAt: null },
      now,
    ),
  visitEnd: ({ visitId, note }, { user, siteId, at, now }) =>
    enterVisit(user, siteId, visitId, { entries: [], endedAt: at.toISOString(), ...(note ? { note } : {}) }, now),
  alarm: (what, at) => act(what, at),
  todoDone: ({ todoId, version, words }, { user, siteId, now }) =>
    changeTodo(user, siteId, todoId, { version, done: { words } }, now),
  flow: ({ stationId, readings }, { user, siteId }) =>
    proposeFromOutside(user, siteId, { how: "stopwatch", stationId, readings }),
  proof: ({ sensorId, against, rows }, { user, siteId, at }) =>
    proveSensor(
      user,
      siteId,
      { sensorId, against: clean<FlowSensor["output"]>(against), rows: rows.map((r) => clean<ProvingRow>(r)) },
      at,
    ),
  meter: ({ kind: _, ...reading }, { user, siteId, id, at, now }) =>
    enterMeterReading(user, siteId, { ...reading, id, at: at.toISOString() }, now),
};

/** Only that it was done is kept of it. */
async function carryOut(what: Entered, at: At): Promise<null> {
  await (TAKES[what.kind] as (what: Entered, at: At) => Promise<unknown>)(what, at);
  return null;
}

async function act({ alarmId, act: asked }: Of<"alarm">, { user, siteId }: At): Promise<void> {
  const alarm = await alarmNow(user, siteId, alarmId);
  // Somebody was quicker: what was meant is so.
  if (asked.action === "acknowledge" && alarm.state !== "open") return;
  if ((asked.action === "clear" || asked.action === "cause") && alarm.state === "cleared") {
    const by = alarm.clearedByName ?? "";
    const met: Met = { why: "cleared", by };
    throw new AppError("conflict", `This alarm was cleared by ${by || "someone"} already.`, { met });
  }
  await actOnAlarm(user, siteId, alarmId, asked.action === "photo" ? await withPhoto(user, siteId, asked) : asked);
}

/** The photograph itself, which was sent before. */
async function withPhoto(
  user: SignedIn,
  siteId: string,
  { photoId, words }: { photoId: string; words: string },
): Promise<AlarmAction> {
  const { type, content } = await keptFile(user, { siteId, fileId: photoId });
  if (type !== "image/jpeg" && type !== "image/png" && type !== "image/webp")
    throw new AppError("badRequest", "This is not a JPEG, PNG or WebP picture.");
  return { action: "photo", type, data: content.toString("base64"), words };
}
