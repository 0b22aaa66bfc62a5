import { RequestRefused } from "@/components/data/request";
import type { Along } from "@/contracts/along";
import type { FieldEntry, Met } from "@/contracts/entries";
import type { Arrived } from "@/contracts/kept-files";
import { PIECE_BYTES } from "@/contracts/kept-files";
import { entriesOf, markEntry, nextToSend, photosOf } from "./entries";
import type { Phone, WaitingEntry } from "./phone-db";

/** The office, as the phone speaks with it. */
export type Office = {
  enter: (siteId: string, entry: FieldEntry) => Promise<unknown>;
  arrived: (siteId: string, photoId: string) => Promise<Arrived>;
  piece: (siteId: string, photoId: string, at: { from: number; of: number }, piece: Blob) => Promise<Arrived>;
  along: (siteId: string) => Promise<Along>;
};

/** These say nothing of what was entered: it is sent again later. */
const LATER = new Set(["busy", "databaseBusy", "unavailable", "internal", "tooManyTries"]);
/** Why sending stopped: everything is there, the office cannot be reached or is busy, or nobody is signed in (`ended`: not any more). */
export type Stopped = "done" | "away" | "later" | "signIn" | "ended";

/** Sends what waits, once and in its order, and reads anew what the sites hold then. What meets a newer state stays, and is said. @param onNews after each */
export async function sendWaiting(phone: Phone, office: Office, onNews: () => void): Promise<Stopped> {
  for (;;) {
    const next = nextToSend(await entriesOf(phone));
    const stopped = next ? await sendOne(phone, office, next, onNews) : await readAnew(phone, office, onNews);
    // More may have been entered while the sites were read anew.
    if (stopped || (!next && !nextToSend(await entriesOf(phone)))) return stopped ?? "done";
  }
}

/** @returns why nothing more is sent now; null: it is there, or said to be refused */
async function sendOne(phone: Phone, office: Office, next: WaitingEntry, onNews: () => void): Promise<Stopped | null> {
  try {
    for (const photoId of photosOf(next)) await sendPhoto(phone, office, photoId, onNews);
    const { id, by, at, what } = next;
    await office.enter(next.siteId, { id, by, at, what });
    await markEntry(phone, next.seq, { state: "sent" });
  } catch (error) {
    const stopped = stopsFor(error);
    if (stopped) return stopped;
    await markEntry(phone, next.seq, refusedAs(error));
  }
  onNews();
  return null;
}

function stopsFor(error: unknown): Stopped | null {
  if (!(error instanceof RequestRefused)) return null;
  if (error.code === "notSignedIn") return error.details["ended"] === true ? "ended" : "signIn";
  if (error.code === "unreachable") return "away";
  return LATER.has(error.code) ? "later" : null;
}

function refusedAs(error: unknown): Partial<Pick<WaitingEntry, "state" | "met" | "problem">> {
  const problem = error instanceof Error ? error.message : String(error);
  const met = error instanceof RequestRefused ? (error.details["met"] as Met | undefined) : undefined;
  return met ? { state: "met", met, problem } : { state: "refused", problem };
}

/** Sends a photograph from where it broke off. One that is not here was sent before. */
async function sendPhoto(phone: Phone, office: Office, id: string, onNews: () => void): Promise<void> {
  const photo = await phone.get("photo", id);
  if (!photo) return;
  const { siteId, content } = photo;
  const of = content.byteLength;
  let at = await office.arrived(siteId, id);
  while (!at.whole) {
    const from = at.has;
    at = await office.piece(siteId, id, { from, of }, new Blob([content.slice(from, from + PIECE_BYTES)]));
    if (!at.whole && at.has <= from) throw new Error("A photograph does not arrive under its number. Take it again.");
    await phone.put("photo", { ...photo, sent: at.has });
    onNews();
  }
  await phone.put("photo", { ...photo, sent: of });
}

/** What the sites hold that something was sent to; what they show then is no longer kept beside them. */
async function readAnew(phone: Phone, office: Office, onNews: () => void): Promise<Stopped | null> {
  const sent = (await entriesOf(phone)).filter((e) => e.state === "sent");
  for (const siteId of new Set(sent.map((e) => e.siteId))) {
    try {
      await keepPack(phone, await office.along(siteId));
    } catch (error) {
      const stopped = stopsFor(error);
      if (stopped) return stopped;
      // The site is not theirs any more: what was sent is the office's.
    }
    for (const e of sent.filter((s) => s.siteId === siteId)) {
      await phone.delete("entry", e.seq);
      for (const photoId of photosOf(e)) await phone.delete("photo", photoId);
    }
    onNews();
  }
  return null;
}

/** Keeps what a site holds, as long as it was kept before or is taken along. */
export async function keepPack(phone: Phone, pack: Along, along?: boolean): Promise<void> {
  const tx = phone.transaction("site", "readwrite");
  const before = await tx.store.get(pack.siteId);
  // Of two that were asked for one after the other, the later stands, whichever comes first.
  const newer = before && before.pack.at > pack.at ? before.pack : pack;
  await tx.store.put({ siteId: pack.siteId, along: along ?? before?.along ?? false, pack: newer });
  await tx.done;
}

/** Forgets photographs that nothing entered or typed names any more, and sites that were only looked at; what waits to be sent keeps its site. */
export async function tidyPhone(phone: Phone, openSiteId: string | null): Promise<void> {
  const entries = await entriesOf(phone);
  const named = new Set(entries.flatMap((e) => [...photosOf(e)]));
  const typed = JSON.stringify(await phone.getAll("draft"));
  for (const { id } of await phone.getAll("photo"))
    if (!named.has(id) && !typed.includes(id)) await phone.delete("photo", id);
  const needed = new Set(entries.map((e) => e.siteId));
  for (const { siteId, along } of await phone.getAll("site"))
    if (!along && siteId !== openSiteId && !needed.has(siteId)) await phone.delete("site", siteId);
}
