import type { Entered, FieldEntry } from "@/contracts/entries";
import type { Phone, WaitingEntry } from "./phone-db";

/** What waits, in the order in which it was entered. */
export const entriesOf = (phone: Phone): Promise<WaitingEntry[]> => phone.getAll("entry");

type NewEntry = Omit<WaitingEntry, "seq" | "state">;

/** Keeps something entered until it is sent, and forgets what was typed for it: both or neither. @param draft a place, or with `*` at its end all places that begin so */
export async function keepEntry(phone: Phone, entry: NewEntry, draft?: string): Promise<void> {
  const tx = phone.transaction(["entry", "draft"], "readwrite");
  // The key is the store's own count.
  await tx.objectStore("entry").add({ ...entry, state: "waiting" } as unknown as WaitingEntry);
  if (draft?.endsWith("*")) {
    const from = draft.slice(0, -1);
    await tx.objectStore("draft").delete(IDBKeyRange.bound(from, `${from}\uffff`));
  } else if (draft !== undefined) await tx.objectStore("draft").delete(draft);
  await tx.done;
}

/** Says of an entry how it stands. */
export async function markEntry(
  phone: Phone,
  seq: number,
  as: Partial<Pick<WaitingEntry, "state" | "met" | "problem">>,
): Promise<void> {
  const tx = phone.transaction("entry", "readwrite");
  const found = await tx.store.get(seq);
  if (found) await tx.store.put({ ...found, ...as });
  await tx.done;
}

/** Takes something back that was not taken in. */
export const dropEntry = (phone: Phone, seq: number): Promise<void> => phone.delete("entry", seq);

/** Enters something else in the place of what met a newer state: it keeps its place in the order. */
export async function enterInstead(phone: Phone, old: WaitingEntry, what: Entered): Promise<void> {
  const { met: _m, problem: _p, ...kept } = old;
  await phone.put("entry", { ...kept, id: crypto.randomUUID(), what, state: "waiting" });
}

/** What is sent one after the other: of these, one that waits for an answer holds up those behind it. */
export function threadOf({ what }: Pick<FieldEntry, "what">): string {
  switch (what.kind) {
    case "walkBegin":
    case "walkLook":
    case "walkEnd":
      return `walk ${what.walkId}`;
    case "visitBegin":
    case "visitLook":
    case "visitEnd":
      return `visit ${what.visitId}`;
    case "alarm":
      return `alarm ${what.alarmId}`;
    case "todoDone":
      return `todo ${what.todoId}`;
    case "flow":
      return `flow ${what.stationId}`;
    case "proof":
      return `proof ${what.sensorId}`;
    case "meter":
      return `meter ${what.meterId}`;
  }
}

/** The photographs that have to be there before an entry is. */
export function photosOf({ what }: Pick<FieldEntry, "what">): readonly string[] {
  if (what.kind === "walkLook" || what.kind === "visitLook") return what.photoIds;
  if (what.kind === "meter") return what.photoId ? [what.photoId] : [];
  return what.kind === "alarm" && what.act.action === "photo" ? [what.act.photoId] : [];
}

/** What is sent next: the first that waits and is not held up by one before it of the same thread. */
export function nextToSend(entries: readonly WaitingEntry[]): WaitingEntry | null {
  const held = new Set<string>();
  for (const e of entries) {
    const thread = threadOf(e);
    if (e.state === "waiting" && !held.has(thread)) return e;
    if (e.state === "met" || e.state === "refused") held.add(thread);
  }
  return null;
}
