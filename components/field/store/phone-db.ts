import { type DBSchema, type IDBPDatabase, openDB, deleteDB } from "idb";
import type { Along } from "@/contracts/along";
import type { FieldEntry, Met } from "@/contracts/entries";

/** Something entered that the office does not have yet. `seq`: in the order in which it was entered. */
export type WaitingEntry = FieldEntry & {
  seq: number;
  siteId: string;
  /** What it is about, as whoever entered it called it. */
  subject: string;
  /** `sent`: the office has it, and what is kept of the site does not show it yet. */
  state: "waiting" | "sent" | "met" | "refused";
  met?: Met;
  problem?: string;
};
/** A site on the phone. `along`: kept until it is put back; else only until another is opened. */
export type KeptSite = { siteId: string; along: boolean; pack: Along };
/** A photograph as it is sent; `sent`: so many bytes of it are there. */
export type KeptPhoto = { id: string; siteId: string; content: ArrayBuffer; sent: number };

interface PhoneSchema extends DBSchema {
  site: { key: string; value: KeptSite };
  entry: { key: number; value: WaitingEntry };
  photo: { key: string; value: KeptPhoto };
  /** What is being typed and not entered yet, under the place where it is typed. */
  draft: { key: string; value: unknown };
}
export type Phone = IDBPDatabase<PhoneSchema>;

const nameOf = (userId: string): string => `presa-field-${userId}`;

/** What this phone keeps of one person: nobody else's is opened with it. */
export const openPhone = (userId: string): Promise<Phone> =>
  openDB<PhoneSchema>(nameOf(userId), 1, {
    upgrade: (db) => {
      db.createObjectStore("site", { keyPath: "siteId" });
      db.createObjectStore("entry", { keyPath: "seq", autoIncrement: true });
      db.createObjectStore("photo", { keyPath: "id" });
      db.createObjectStore("draft");
    },
    // Another window wipes it.
    blocking: (_now, _wanted, event) => (event.target as IDBDatabase).close(),
  });

/** Forgets everything of a person. */
export const wipePhone = (userId: string): Promise<void> => deleteDB(nameOf(userId));

/** How much of a person waits on this phone; 0 where nothing is kept of them. */
export async function waitingOf(userId: string): Promise<number> {
  const phone = await openPhone(userId);
  try {
    return (await phone.getAll("entry")).filter((e) => e.state !== "sent").length;
  } finally {
    phone.close();
  }
}
