import type { Found, FoundThings } from "../../contracts/search.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsSaying, elementsCalled, type FoundElement, peopleCalled, sitesCalled } from "../db/search.ts";

/** So many of a kind are told; who looks for more writes more. */
const MOST = 8;
const MOST_WORDS = 6;

const KIND_WORDS: Record<FoundElement["kind"], string> = {
  source: "water source",
  poc: "point of connection",
  mainline: "mainline",
  controller: "controller",
  station: "station",
  program: "program",
  device: "device",
};
/** The screen of a site on which each kind of piece is chosen. */
const SCREEN_OF: Record<FoundElement["kind"], string> = {
  source: "waterworks",
  poc: "waterworks",
  mainline: "waterworks",
  controller: "controllers",
  station: "stations",
  program: "programs",
  device: "waterworks",
};

/** Sites, their pieces, people and alarms that are called as asked: every word has to be in the name. */
export async function search(user: SignedIn, asked: string): Promise<FoundThings> {
  const words = asked.trim().slice(0, 200).split(/\s+/).filter(Boolean).slice(0, MOST_WORDS);
  if (words.length === 0) return { found: [] };
  const [sites, pieces, people, alarms] = await Promise.all([
    sitesCalled(user.organisationId, words, MOST),
    elementsCalled(words, MOST),
    user.role === "manager" ? peopleCalled(user.organisationId, words, MOST) : [],
    alarmsSaying(words, MOST),
  ]);
  return {
    found: [
      ...sites.map(
        (s): Found => ({ kind: "site", id: s.id, name: s.name, about: siteWords(s), at: `/sites/${s.id}/night` }),
      ),
      ...pieces.map(pieceFound),
      ...people.map(
        (p): Found => ({ kind: "person", id: p.id, name: p.name, about: `${p.role}, ${p.email}`, at: "/organisation" }),
      ),
      ...alarms.map(
        (a): Found => ({
          kind: "alarm",
          id: a.id,
          name: a.message,
          about: `${a.state} alarm, ${a.siteName}`,
          at: `/sites/${a.siteId}/log?view=alarms&at=${a.id}`,
        }),
      ),
    ],
  };
}

const siteWords = (s: { groups: string; archived: boolean }): string =>
  [s.archived ? "archived" : "site", s.groups].filter(Boolean).join(" · ");

function pieceFound(e: FoundElement): Found {
  const about = [KIND_WORDS[e.kind], e.siteName, ...(e.serial ? [`serial ${e.serial}`] : [])].join(", ");
  return {
    kind: "piece",
    id: `${e.siteId} ${e.elementId}`,
    name: e.number === null ? e.name : `${e.number} ${e.name}`,
    about,
    at: `/sites/${e.siteId}/${SCREEN_OF[e.kind]}?at=${encodeURIComponent(e.elementId)}`,
  };
}
