"use client";
import { create } from "zustand";
import { request, RequestRefused } from "@/components/data/request";
import { base64Of, smallerPicture } from "@/components/kit/smaller-picture";
import { ALONG_SHAPE } from "@/contracts/along";
import type { Entered } from "@/contracts/entries";
import { type AccountView, language, type Language } from "@/contracts/people";
import { dropEntry, enterInstead, entriesOf, keepEntry, markEntry } from "./entries";
import { office } from "./office";
import { type FieldPerson, forgetPerson, peopleHere, personHere, rememberPerson } from "./person";
import {
  type KeptPhoto,
  type KeptSite,
  openPhone,
  type Phone,
  type WaitingEntry,
  waitingOf,
  wipePhone,
} from "./phone-db";
import { keepPack, sendWaiting, tidyPhone } from "./sending";

/** How often what waits is tried again while it cannot be sent, ms. */
const AGAIN_MS = 20_000;
const LARGEST_PHOTO_PX = 1600;

type Other = { name: string; count: number };
export type PhoneState = {
  /** Undefined while it is being looked for; null: nobody has signed in here yet. */
  person: FieldPerson | null | undefined;
  /** What is said about signing in: their session ran out, or was ended and all is wiped. */
  door: "expired" | "wiped" | null;
  sites: KeptSite[];
  waiting: WaitingEntry[];
  /** Bytes of photographs that wait, and how much of them is there. */
  photos: { of: number; sent: number };
  sending: boolean;
  /** Whether the office was reached when it was last asked. What the browser says of a connection is only half of it: there may be bars and no way through. */
  online: boolean;
  /** What others entered on this phone and have not sent. */
  others: Other[];
  language: Language;
  begin: () => () => void;
  /** Asks the office who is signed in, and sends what waits. */
  contact: () => Promise<void>;
  read: (siteId: string, along?: boolean) => Promise<void>;
  putBack: (siteId: string) => Promise<void>;
  enter: (siteId: string, what: Entered, subject: string, draft?: string) => Promise<void>;
  takePhoto: (siteId: string, file: Blob) => Promise<string>;
  photoUrl: (id: string) => Promise<string | null>;
  send: () => Promise<void>;
  drop: (entry: WaitingEntry) => Promise<void>;
  again: (entry: WaitingEntry) => Promise<void>;
  instead: (entry: WaitingEntry, what: Entered) => Promise<void>;
  speak: (language: Language) => void;
  signOut: () => Promise<void>;
  draft: <T>(key: string) => Promise<T | undefined>;
  keepDraft: (key: string, value: unknown) => Promise<void>;
};

/** The phone that is open; nothing is entered before it is. */
let phone: Phone | null = null;
const opened = (): Phone => {
  if (!phone) throw new Error("Nothing can be kept on this phone yet.");
  return phone;
};

/** What this phone keeps and what it does with it. One window sends at a time. */
export const usePhone = create<PhoneState>()((set, get) => {
  /** What the phone holds, as it stands now. */
  const look = async (): Promise<void> => {
    const mine = phone;
    if (!mine) return;
    const read = Promise.all([mine.getAll("site"), entriesOf(mine), mine.getAll("photo")]);
    const [sites, waiting, photos] = await read.catch((error: unknown) => {
      // Closed meanwhile: what it held is nobody's here any more.
      if (phone === mine) throw error;
      return [[], [], []] as [KeptSite[], WaitingEntry[], KeptPhoto[]];
    });
    if (phone !== mine) return;
    const sum = (of: (p: (typeof photos)[number]) => number): number => photos.reduce((all, p) => all + of(p), 0);
    set({ sites, waiting, photos: { of: sum((p) => p.content.byteLength), sent: sum((p) => p.sent) } });
  };
  const use = async (person: FieldPerson): Promise<void> => {
    if (phone && get().person?.id === person.id) {
      rememberPerson(person);
      set({ person });
      return;
    }
    phone?.close();
    phone = await openPhone(person.id);
    rememberPerson(person);
    set({ person, language: languageHere() ?? person.language });
    await look();
  };
  const wipe = async (why: "wiped" | null): Promise<void> => {
    const { person } = get();
    phone?.close();
    phone = null;
    if (person) {
      await wipePhone(person.id);
      forgetPerson(person.id);
    }
    set({ person: null, door: why, sites: [], waiting: [] });
  };
  const meet = async (): Promise<void> => {
    try {
      const me = await request<AccountView>("GET", "/api/account");
      await use({ id: me.id, name: me.name, role: me.role, language: get().language });
      set({ door: null, online: true });
    } catch (error) {
      set({ online: !isAway(error) });
      if (!(error instanceof RequestRefused) || error.code !== "notSignedIn") return;
      if (error.details["ended"] === true && get().person) await wipe("wiped");
      else set({ door: get().person ? "expired" : get().door, person: get().person ?? null });
    }
  };
  const send = async (): Promise<void> => {
    const mine = phone;
    if (!mine || get().sending || !get().online) return;
    set({ sending: true });
    try {
      const stopped = await alone(() => sendWaiting(mine, office, () => void look()));
      if (stopped === "ended") await wipe("wiped");
      if (stopped === "signIn") set({ door: "expired" });
      if (stopped === "away") set({ online: false });
    } catch (error) {
      // It was closed meanwhile, by a sign-out here or in another window: whoever opens it next sends what waits.
      if (phone === mine) throw error;
    } finally {
      set({ sending: false });
      await look();
    }
  };
  const contact = async (): Promise<void> => {
    if (!navigator.onLine) {
      set({ online: false });
      return;
    }
    await meet();
    await send();
    // Another version of the application may want more of a site than is kept of it.
    for (const { siteId, pack } of get().sites)
      if (pack.shape !== ALONG_SHAPE && get().online)
        await get()
          .read(siteId)
          .catch(() => {});
  };
  return {
    person: undefined,
    door: null,
    sites: [],
    waiting: [],
    photos: { of: 0, sent: 0 },
    sending: false,
    online: true,
    others: [],
    language: languageHere() ?? "en",
    begin: () => {
      const turned = (): void => void contact();
      const news = new BroadcastChannel("presa-field");
      news.onmessage = () => void look();
      const timer = setInterval(() => {
        if (!get().online || get().waiting.some((e) => e.state === "waiting")) void contact();
      }, AGAIN_MS);
      const back = (): void => {
        if (document.visibilityState === "visible") turned();
      };
      document.addEventListener("visibilitychange", back);
      for (const name of ["online", "offline"]) window.addEventListener(name, turned);
      void (async () => {
        const kept = personHere();
        if (kept) await use(kept);
        set({ others: await othersWaiting(kept?.id) });
        await contact();
        if (get().person === undefined) set({ person: null });
      })();
      return () => {
        clearInterval(timer);
        news.close();
        document.removeEventListener("visibilitychange", back);
        for (const name of ["online", "offline"]) window.removeEventListener(name, turned);
      };
    },
    contact,
    read: async (siteId, along) => {
      const pack = await office.along(siteId).catch((error: unknown) => {
        if (isAway(error)) set({ online: false });
        throw error;
      });
      await keepPack(opened(), pack, along);
      await tidyPhone(opened(), siteId);
      await look();
    },
    putBack: async (siteId) => {
      const found = await opened().get("site", siteId);
      if (found) await opened().put("site", { ...found, along: false });
      await tidyPhone(opened(), null);
      await look();
    },
    enter: async (siteId, what, subject, draft) => {
      await keepEntry(
        opened(),
        {
          id: crypto.randomUUID(),
          by: get().person?.id ?? "",
          at: new Date().toISOString(),
          siteId,
          what,
          subject,
        },
        draft,
      );
      await look();
      told();
      void send();
    },
    takePhoto: async (siteId, file) => {
      const id = crypto.randomUUID();
      const content = await (await smallerPicture(file, LARGEST_PHOTO_PX)).arrayBuffer();
      await opened().put("photo", { id, siteId, content, sent: 0 });
      await look();
      return id;
    },
    photoUrl: async (id) => {
      const found = await phone?.get("photo", id);
      return found ? `data:image/jpeg;base64,${await base64Of(new Blob([found.content]))}` : null;
    },
    send,
    drop: async ({ seq }) => {
      await dropEntry(opened(), seq);
      await look();
      void send();
    },
    again: async ({ seq }) => {
      await markEntry(opened(), seq, { state: "waiting" });
      await look();
      void send();
    },
    instead: async (entry, what) => {
      await enterInstead(opened(), entry, what);
      await look();
      void send();
    },
    speak: (chosen) => {
      const { person } = get();
      // biome-ignore lint/suspicious/noDocumentCookie: the cookie store is not in every browser, and the server reads this one
      document.cookie = `presa_language=${chosen}; path=/; max-age=31536000; samesite=lax`;
      set({ language: chosen });
      if (person) rememberPerson({ ...person, language: chosen });
      // Without a connection the phone has it; the person's own choice elsewhere is theirs to make there.
      void request("PATCH", "/api/account", { language: chosen }).catch(() => {});
    },
    signOut: async () => {
      await request("DELETE", "/api/session");
      await wipe(null);
    },
    draft: async <T>(key: string) => (await phone?.get("draft", key)) as T | undefined,
    keepDraft: async (key, value) => {
      if (value === undefined) await phone?.delete("draft", key);
      else await phone?.put("draft", value, key);
    },
  };
});

const isAway = (error: unknown): boolean => error instanceof RequestRefused && error.code === "unreachable";

/** In one window only, where the browser can tell. */
async function alone<T>(work: () => Promise<T>): Promise<T | "done"> {
  if (!navigator.locks) return work();
  return navigator.locks.request("presa-field-sending", { ifAvailable: true }, async (lock) =>
    lock ? work() : "done",
  );
}

function told(): void {
  const news = new BroadcastChannel("presa-field");
  news.postMessage("entered");
  news.close();
}

/** What the browser was told at the door, or chosen here. */
function languageHere(): Language | null {
  if (typeof document === "undefined") return null;
  return language.safeParse(/(?:^|; )presa_language=(\w+)/.exec(document.cookie)?.[1]).data ?? null;
}

async function othersWaiting(me: string | undefined): Promise<Other[]> {
  const others = peopleHere().filter((p) => p.id !== me);
  const counted = await Promise.all(others.map(async ({ id, name }) => ({ name, count: await waitingOf(id) })));
  return counted.filter((o) => o.count > 0);
}
