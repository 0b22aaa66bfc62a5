import type { Dated } from "./dated.ts";
import { DUTY_KINDS, type DueDay } from "./duties.ts";

export const CALENDAR_KINDS = ["visit", "todo", "due", "program", "off", "night"] as const;
export type CalendarKind = (typeof CALENDAR_KINDS)[number];
/** One thing in the calendar. @property on a date of its site @property late it should have been done by now */
export type CalendarEntry = {
  key: string;
  what: CalendarKind;
  on: string;
  siteId: string;
  site: string;
  words: string;
  late: boolean;
};

/** A night, and for how many minutes in all its stations are left unwatered. */
export type NightShort = { date: string; shortfallMin: number };
/** A site as its calendar is made from. @property nights this one and those ahead, as far as they are worked out */
export type CalendarSite = {
  siteId: string;
  site: string;
  today: string;
  due: readonly DueDay[];
  dated: readonly Dated[];
  nights: readonly NightShort[];
  visits: readonly { id: string; on: string; words: string; open: boolean }[];
  todos: readonly { id: string; on: string; words: string }[];
};
/** Both days are of it. */
export type Days = { from: string; to: string };

/** What stands in the calendar of a site between two days, by the day. */
export function calendarOf(of: CalendarSite, { from, to }: Days): CalendarEntry[] {
  const { siteId, site, today } = of;
  const entry = (what: CalendarKind, id: string, on: string, words: string, late = false): CalendarEntry => ({
    key: `${what} ${siteId} ${id} ${on}`,
    what,
    on,
    siteId,
    site,
    words,
    late,
  });
  return [
    ...of.visits.map((v) => entry("visit", v.id, v.on, v.words, v.open && v.on < today)),
    ...of.todos.map((t) => entry("todo", t.id, t.on, t.words, t.on < today)),
    ...of.due.map((d) => entry("due", `${d.duty} ${d.subjectId ?? ""}`, d.on, dutyWords(d), d.on < today)),
    ...of.dated.flatMap((d, i) => datedEntries(d).map(([on, words]) => entry(d.what, String(i), on, words))),
    ...of.nights
      .filter((n) => n.shortfallMin >= 1)
      .map((n) => entry("night", "", n.date, `full night, ${Math.round(n.shortfallMin)} min short`)),
  ]
    .filter((e) => e.on >= from && e.on <= to)
    .sort((a, b) => a.on.localeCompare(b.on) || a.what.localeCompare(b.what) || a.words.localeCompare(b.words));
}

const dutyWords = ({ duty, name }: DueDay): string => `${DUTY_KINDS[duty].words} due${name ? `: ${name}` : ""}`;

/** Its two ends: a program's first and last day, and when what is off waters again. */
function datedEntries({ what, words, from, until }: Dated): [string, string][] {
  if (what === "off") return until ? [[until, `${words} until today: it waters again`]] : [];
  return [
    ...(from ? [[from, `${words} begins`] as [string, string]] : []),
    ...(until ? [[until, `${words}: last day`] as [string, string]] : []),
  ];
}
