/** A letter as it is sent: plain words, with addresses that lead to what it speaks of. */
export type Letter = { subject: string; body: string };
/** An alarm as a letter tells it. @property at on the site's own clock. @property url null where it is not known under which address Presa is reached */
export type AlarmWords = { site: string; message: string; at: string; url: string | null };
export type SiteWords = { name: string; why: readonly string[]; url: string | null };

/** The most that are told one by one; the others are counted. */
const MOST = 30;

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;
const lines = (...parts: (string | null)[]): string => parts.filter((p) => p !== null).join("\n");
const sitesOf = (alarms: readonly AlarmWords[]): string[] => [...new Set(alarms.map((a) => a.site))];
/** Of the first ones, each in its own words; and how many more there are. */
function each<T>(of: readonly T[], words: (one: T) => string): string {
  const more = of.length - MOST;
  return [...of.slice(0, MOST).map(words), ...(more > 0 ? [`And ${more} more.`] : [])].join("\n\n");
}
const alarmLines = (a: AlarmWords): string => lines(`${a.site}, ${a.at}`, a.message, a.url);

/** New alarms, told together. */
export function alarmsLetter(alarms: readonly AlarmWords[]): Letter {
  const [first] = alarms;
  const subject =
    alarms.length === 1 && first
      ? `Alarm at ${first.site}`
      : `${alarms.length} alarms at ${sitesOf(alarms).join(", ")}`;
  return { subject: short(subject), body: each(alarms, alarmLines) };
}

/** Alarms that nobody has acknowledged. @param minutes for which they stand open at the least */
export function escalatedLetter(alarms: readonly AlarmWords[], minutes: number): Letter {
  const subject = `Nobody has acknowledged ${many(alarms.length, "alarm")} at ${sitesOf(alarms).join(", ")}`;
  return {
    subject: short(subject),
    body: lines(
      `Open for ${many(minutes, "minute")} or longer, and nobody has acknowledged it:`,
      "",
      each(alarms, alarmLines),
    ),
  };
}

/** What has become overdue. */
export function overdueLetter(sites: readonly SiteWords[]): Letter {
  return { subject: short(`Overdue at ${sites.map((s) => s.name).join(", ")}`), body: each(sites, siteLines) };
}

const siteLines = (s: SiteWords): string => lines(s.name, ...s.why.map((w) => `  ${w}`), s.url);

/**
 * The day's beginning: sites that need somebody, the worst first.
 *
 * @param all how many sites there are
 */
export function morningLetter(day: string, sites: readonly SiteWords[], all: number): Letter {
  const subject =
    sites.length === 0 ? "nothing needs anybody" : `${many(sites.length, "site")} of ${all} need somebody`;
  const body =
    sites.length === 0
      ? `None of ${many(all, "site")} has an open alarm or anything else that needs somebody today.`
      : each(sites, siteLines);
  return { subject: short(`${day}: ${subject}`), body };
}

/** A sheet that somebody sends. @param words their own; may be empty */
export function paperLetter(sheet: string, site: string, by: string, words: string): Letter {
  return {
    subject: short(`${sheet}: ${site}`),
    body: lines(
      words === "" ? null : `${words}\n`,
      `${by} sends you the ${sheet.toLowerCase()} of ${site}, as a PDF with this letter. An answer goes to ${by}.`,
    ),
  };
}

export const trialLetter = (name: string): Letter => ({
  subject: "A letter to try",
  body: `This is what Presa's letters to ${name} look like. Nothing has happened.`,
});

/** A subject that any mail program shows. */
const short = (subject: string): string => (subject.length <= 120 ? subject : `${subject.slice(0, 119)}…`);

/**
 * Whether a clock stands within some hours, which may go over midnight.
 *
 * @param clock HH:MM
 * @param from HH:MM; to alike: all day
 */
export function withinHours(clock: string, from: string, to: string): boolean {
  if (from === to) return true;
  return from < to ? clock >= from && clock < to : clock >= from || clock < to;
}

/** After which try a letter or a call is tried again, min; after the last it is given up. */
export const WAITS_MIN = [1, 5, 30, 120, 720] as const;
