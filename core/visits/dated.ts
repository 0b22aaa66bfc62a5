import type { SiteFile } from "../site-file/schema.ts";

/** What the settings have by the calendar: a program with its dates (an establishment's steps are such), or that something is off. @property until null: no end is set */
export type Dated = { what: "program" | "off"; words: string; from: string | null; until: string | null };

/** Off until a day: it waters again that day, so that the last day off is the one before. */
const off = (words: string, holdUntil: string | undefined): Dated[] =>
  holdUntil === undefined
    ? []
    : [{ what: "off", words, from: null, until: holdUntil === "indefinite" ? null : holdUntil }];

/** Programs in use with their dates, and what is off until when; the site first. */
export function datedOf(site: SiteFile): Dated[] {
  const inUse = site.programs.filter((p) => p.enabled !== false);
  return [
    ...off("Off", site.site.holdUntil),
    ...inUse.flatMap((p) => off(`${p.name} off`, p.holdUntil)),
    ...inUse.flatMap((p): Dated[] =>
      p.from || p.until ? [{ what: "program", words: p.name, from: p.from ?? null, until: p.until ?? null }] : [],
    ),
  ];
}
