import type { Happened, TimelineEntry, TimelineHead, ToldBy } from "@/contracts/timeline";
import { subjectName } from "@/core/judge/alarm-words";
import type { SiteFile } from "@/core/site-file/schema";
import { DUTY_KINDS } from "@/core/visits/duties";
import type { Conventions } from "@/components/kit/conventions";
import { HOW } from "./learning-words";
import { ACTION_WORDS, KIND_WORDS } from "./alarm-words";
import { ORDER_STATE, orderWords, SEND_WORDS } from "./order-words";

export const HEAD_WORDS: Record<TimelineHead, string> = {
  saves: "Saves",
  controllers: "Sent and asked",
  alarms: "Alarms",
  lockouts: "Lockouts",
  holds: "Holds",
  learning: "Learning",
  proofs: "Proofs",
  visits: "Visits, to do",
  meters: "Meters, counters",
  wire: "By wire",
};

/** How something that happened is told. @property place of the site's pages, where it is looked at @property open it still needs somebody */
export type Line = { title: string; words: string; open?: boolean; place: string };
type About = { site: SiteFile; conventions: Conventions };

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;
const kind = (of: string): string => KIND_WORDS[of] ?? of;
const STATES: Record<string, string> = { ...SEND_WORDS, ...ORDER_STATE };
const controller = (site: SiteFile, id: string): string => site.controllers.find((c) => c.id === id)?.name ?? id;
const joined = (...words: (string | null)[]): string => words.filter(Boolean).join("; ");

const LINES: { [S in Happened]: (told: ToldBy[S], about: About) => Line } = {
  save: ({ ref, who, note, first, changes }) => ({
    title: `Revision ${ref}, ${who}`,
    words: joined(note, first === note ? null : first, changes > 1 ? `and ${changes - 1} more` : null),
    place: `log?view=revisions&at=${ref}`,
  }),
  send: ({ who, controllerId, version, state, reason }, { site }) => ({
    title: `${who ?? "Presa"} sent revision ${version} to ${controller(site, controllerId)}`,
    words: joined(STATES[state] ?? state, reason),
    place: "controllers?view=history",
  }),
  order: ({ who, what, state, reason }, { site }) => ({
    title: `${who ?? "Presa, every night"}: ${orderWords(site, what)}`,
    words: joined(STATES[state] ?? state, reason),
    place: "controllers?view=history",
  }),
  alarm: ({ ref, kind: of, subjectId, message, state, rehearsed }, { site }) => ({
    title: `${rehearsed ? "rehearsed, " : ""}${kind(of)}: ${subjectName(site, subjectId)}`,
    words: message,
    open: state !== "cleared",
    place: `log?view=alarms&at=${ref}`,
  }),
  deed: ({ who, action, words, alarmId, kind: of, subjectId }, { site }) => ({
    title: `${who} ${ACTION_WORDS[action] ?? action} ${words}`.trim(),
    words: `on ${kind(of)}: ${subjectName(site, subjectId)}`,
    place: `log?view=alarms&at=${alarmId}`,
  }),
  learning: ({ who, how, state, results }) => ({
    title: `Learning, ${who}`,
    words: joined(HOW[how], many(results, "result"), state === "done" ? null : state),
    place: "learn",
  }),
  visit: ({ ref, who, name, note, open }) => ({
    title: `${name}, ${who}`,
    words: joined(open ? "still on" : null, note),
    place: `log?view=visits&at=${ref}`,
  }),
  walk: ({ ref, who, stations, fine, problems, note, open }) => ({
    title: `Walk, ${who}`,
    words: joined(
      open ? "still on" : null,
      `${many(fine + problems, "station")} of ${stations} looked at, ${many(problems, "problem")}`,
      note,
    ),
    place: `log?view=visits&at=${ref}`,
  }),
  todo: ({ ref, who, words, doneBy, doneWords }) => ({
    title: `To do: ${words}`,
    words: doneBy ? joined(`done by ${doneBy}`, doneWords) : `entered by ${who}`,
    open: doneBy === null,
    place: `log?view=todo&at=${ref}`,
  }),
  due: ({ who, duty, subjectId, on, words }, { site, conventions }) => ({
    title: `${DUTY_KINDS[duty].words} done ${conventions.date(on)}, ${who}`,
    words: joined(subjectId ? subjectName(site, subjectId) : null, words),
    place: "log?view=todo",
  }),
  meter: ({ who, meterId, m3, note }, { site, conventions }) => ({
    title: `${subjectName(site, meterId)} read ${conventions.quantity(m3, "bulk")}, ${who}`,
    words: note,
    place: "sensors?view=meter",
  }),
  counter: ({ who, sensorId, counter, reason }, { site }) => ({
    title: `Counter ${counter} of ${subjectName(site, sensorId)} begun anew, ${who}`,
    words: reason,
    place: "sensors?view=counters",
  }),
  wire: ({ who, controllerId, stations }, { site }) => ({
    title: `Valves of ${controller(site, controllerId)} checked by wire, ${who}`,
    words: many(stations, "valve"),
    place: "controllers?view=valves",
  }),
};

/** What happened, in words, with the place where it is looked at. */
export function lineOf(entry: TimelineEntry, about: About): Line {
  return (LINES[entry.sort] as (told: TimelineEntry["told"], about: About) => Line)(entry.told, about);
}
