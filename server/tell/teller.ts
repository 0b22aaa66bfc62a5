import { createHash } from "node:crypto";
import { localClock, localDate, localIso } from "../../core/dates/wall-time.ts";
import {
  type AlarmWords,
  alarmsLetter,
  escalatedLetter,
  morningLetter,
  overdueLetter,
  type SiteWords,
  withinHours,
} from "../../core/tell/letters.ts";
import { inTransaction } from "../db/connection.ts";
import { listen } from "../db/listen.ts";
import {
  type AlarmToTell,
  alarmsToTell,
  insertLetter,
  type Listener,
  listeners,
  needsOf,
  noteTold,
  type SiteNeeds,
  toldOf,
} from "../db/telling.ts";
import { log } from "../log.ts";
import { makeCalls } from "./calls.ts";
import { mailIsSet, sendLetters } from "./post.ts";

/** Alarms that come together are told together, ms; and so often it is looked whether anything is to be told, ms. */
const GATHER_MS = 3000;
const EVERY_MS = 20_000;
/** A morning summary that could not be made by then is of no use any more, min. */
const MORNING_MIN = 180;
/** From here on a site needs somebody today, as on Rounds. */
const NEEDS = 30;

/** Presa's own address, as people reach it (PRESA_ADDRESS); null where the operator has not said it. */
const linkTo = (path: string): string | null => {
  const base = process.env["PRESA_ADDRESS"];
  return base ? `${base.replace(/\/$/, "")}${path}` : null;
};

/** Writes the letters that are due to everybody. One person's that cannot be written stop nobody else's. */
export async function writeLetters(now: Date): Promise<void> {
  if (!mailIsSet()) return;
  for (const to of await listeners())
    await writeTo(to, now).catch((error) =>
      log.error({ err: error, user: to.userId }, "somebody could not be told what they want to be told"),
    );
}

async function writeTo(to: Listener, now: Date): Promise<void> {
  const clock = localClock(to.timeZone, now.getTime() / 1000);
  const inHours = withinHours(clock, to.fromClock, to.toClock);
  if (to.alarms && inHours) await tellAlarms(to, null);
  // What nobody answers is told at any hour: that is what it is for.
  if (to.escalateMin !== null) await tellAlarms(to, to.escalateMin);
  if (to.overdue && inHours) await tellOverdue(to);
  if (to.morningClock !== null && isMorning(clock, to.morningClock)) await tellMorning(to, now);
}

const minutesOf = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5));
const isMorning = (clock: string, at: string): boolean => {
  const late = minutesOf(clock) - minutesOf(at);
  return late >= 0 && late < MORNING_MIN;
};

/** Alarms of which they were not told; or those that nobody has acknowledged for some minutes. */
async function tellAlarms(to: Listener, openFor: number | null): Promise<void> {
  const alarms = await alarmsToTell(to, openFor);
  if (alarms.length === 0) return;
  const kind = openFor === null ? "alarms" : "escalated";
  const keyOf = (a: AlarmToTell): string => `${openFor === null ? "alarm" : "escalated"}:${a.id}`;
  await inTransaction(async () => {
    // Noted and written in one: of two workers one has it, and a letter that was not written is not noted.
    const mine = await noteTold(to, alarms.map(keyOf));
    const told = alarms.filter((a) => mine.has(keyOf(a)));
    const [first] = told;
    if (!first) return;
    const words = told.map(alarmWords);
    const letter = openFor === null ? alarmsLetter(words) : escalatedLetter(words, openFor);
    await insertLetter(to, kind, `${kind}:${first.id}`, letter);
  });
}

const alarmWords = (a: AlarmToTell): AlarmWords => ({
  site: a.site,
  message: a.message,
  at: localIso(a.zone ?? "UTC", Math.floor(a.at.getTime() / 1000))
    .slice(0, 16)
    .replace("T", " "),
  url: linkTo(`/sites/${a.siteId}/log?view=alarms&at=${a.id}`),
});

const siteWords = (s: SiteNeeds, why: string[]): SiteWords => ({
  name: s.name,
  why,
  url: linkTo(`/sites/${s.siteId}/night`),
});

async function tellOverdue(to: Listener): Promise<void> {
  const late = (await needsOf(to)).flatMap((s) =>
    s.reasons.flatMap((r) =>
      r.code === "overdue" ? [{ site: s, words: r.words, key: overdueKey(s.siteId, r.words) }] : [],
    ),
  );
  const known = await toldOf(
    to.userId,
    late.map((l) => l.key),
  );
  const fresh = late.filter((l) => !known.has(l.key));
  if (fresh.length === 0) return;
  await inTransaction(async () => {
    const mine = await noteTold(
      to,
      fresh.map((l) => l.key),
    );
    const told = fresh.filter((l) => mine.has(l.key));
    const [first] = told;
    if (!first) return;
    const sites = [...new Set(told.map((l) => l.site))];
    const letter = overdueLetter(
      sites.map((s) =>
        siteWords(
          s,
          told.filter((l) => l.site === s).map((l) => l.words),
        ),
      ),
    );
    await insertLetter(to, "overdue", first.key, letter);
  });
}

const overdueKey = (siteId: string, words: string): string =>
  `overdue:${siteId}:${createHash("sha256").update(words).digest("base64url").slice(0, 16)}`;

/** One a day, by the person's own calendar. */
async function tellMorning(to: Listener, now: Date): Promise<void> {
  const date = localDate(to.timeZone, now.getTime() / 1000);
  const key = `morning:${date}`;
  if ((await toldOf(to.userId, [key])).size > 0) return;
  const sites = await needsOf(to);
  await inTransaction(async () => {
    if ((await noteTold(to, [key])).size === 0) return;
    const needing = sites.filter((s) => s.urgency >= NEEDS).map((s) => siteWords(s, whyOf(s)));
    await insertLetter(to, "morning", key, morningLetter(date, needing, sites.length));
  });
}

const whyOf = (s: SiteNeeds): string[] => [
  ...(s.openAlarms > 0 ? [`${s.openAlarms} open alarm${s.openAlarms === 1 ? "" : "s"}`] : []),
  ...s.nights,
  ...s.reasons.flatMap((r) => (r.words === "" ? [] : [r.words])),
];

/** Work that is begun now and then, and never while it is being done. */
function oneAtATime(work: (now: Date) => Promise<unknown>): { begin: () => void; end: () => Promise<void> } {
  let ended = false;
  let working: Promise<void> | null = null;
  return {
    begin: () => {
      if (ended || working) return;
      working = work(new Date())
        .then(() => {})
        .catch((error) => log.error({ err: error }, "telling failed; it is tried again"))
        .finally(() => {
          working = null;
        });
    },
    end: async () => {
      ended = true;
      await working;
    },
  };
}

/** In a worker: tells people and other systems what is to be told, from now on. @returns what ends it */
export async function tellAll(): Promise<() => Promise<void>> {
  // Each for itself: a mail server that is away keeps no call waiting, and no system a letter.
  const letters = oneAtATime(async (now) => {
    await writeLetters(now);
    await sendLetters(now);
  });
  const calls = oneAtATime(makeCalls);
  const begin = (): void => {
    letters.begin();
    calls.begin();
  };
  let soon: NodeJS.Timeout | undefined;
  const deaf = await listen("alarm_news", () => {
    clearTimeout(soon);
    soon = setTimeout(begin, GATHER_MS);
  });
  const timer = setInterval(begin, EVERY_MS);
  return async () => {
    clearInterval(timer);
    clearTimeout(soon);
    deaf();
    await Promise.all([letters.end(), calls.end()]);
  };
}
