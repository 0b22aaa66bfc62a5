import { z } from "zod";
import { addDays, addMonths, localDate } from "../dates/wall-time.ts";
import { siteSensors } from "../network/sensing.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";

/** What has to be done anew after some time (handbook#14-season). */
export const DUTIES = ["battery", "backflow", "sensorProof", "learning", "spring", "winter"] as const;
export type Duty = (typeof DUTIES)[number];

const yearDay = z
  .string()
  .regex(/^(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/, "is a month and a day, written MM-DD")
  .refine(
    (v) => !["02-29", "02-30", "02-31", "04-31", "06-31", "09-31", "11-31"].includes(v),
    "is not a day of every year",
  );
/** Whether something is asked for, and when: so many months after it was done last, or by a day of every year. */
const everyMonths = z.strictObject({ asked: z.boolean(), months: z.int().min(1).max(120) });
const everyYear = z.strictObject({ asked: z.boolean(), onDay: yearDay });
export const dutyRules = z.strictObject({
  battery: everyMonths,
  backflow: everyMonths,
  sensorProof: everyMonths,
  learning: everyMonths,
  spring: everyYear,
  winter: everyYear,
});
export type DutyRules = z.infer<typeof dutyRules>;
export type DutyRule = DutyRules[Duty];

/** Yearly, as is usual; the local rule may ask for a backflow test oftener. Not every place has a winter. */
export const USUAL_RULES: DutyRules = {
  battery: { asked: true, months: 12 },
  backflow: { asked: true, months: 12 },
  sensorProof: { asked: true, months: 12 },
  learning: { asked: true, months: 12 },
  spring: { asked: false, onDay: "04-01" },
  winter: { asked: false, onDay: "10-31" },
};

/** Of what it is to be done, and when it was done last, as far as the settings themselves tell. */
export type DutySubject = { duty: Duty; subjectId: string | null; name: string; last: string | null };
/** That it was done, as somebody noted it. @property on a date of the site */
export type DutyDone = { duty: Duty; subjectId: string | null; on: string };
export type DueDay = DutySubject & { on: string };

type DutyKind = {
  words: string;
  /** Noted by somebody; of the others the settings tell. */
  noted: boolean;
  of: (site: SiteFile, w: Waterworks) => Omit<DutySubject, "duty">[];
};
/** So many of a kind are kept of a site; more tell nobody more. */
const MOST = 60;
const wholeSite = (): Omit<DutySubject, "duty">[] => [{ subjectId: null, name: "", last: null }];

export const DUTY_KINDS: Record<Duty, DutyKind> = {
  battery: {
    words: "backup battery",
    noted: true,
    of: (site) => site.controllers.map((c) => ({ subjectId: c.id, name: c.name, last: null })),
  },
  backflow: {
    words: "backflow test",
    noted: true,
    of: (site) =>
      [...site.pocs, ...site.mainlines].flatMap((owner) => {
        const all = (owner.devices ?? []).filter((d) => d.kind === "backflow");
        // Of several at one place each goes by its own name too.
        const name = (d: { name?: string | undefined }): string =>
          all.length > 1 && d.name ? `${owner.name}, ${d.name}` : owner.name;
        return all.map((d) => ({ subjectId: d.id, name: name(d), last: null }));
      }),
  },
  sensorProof: {
    words: "sensor proof",
    noted: false,
    of: (site, w) =>
      siteSensors(w).flatMap(({ sensor, ownerName }) => {
        const last = sensor.provings?.at(-1);
        return last ? [{ subjectId: sensor.id, name: ownerName, last: dayOf(site, last.at) }] : [];
      }),
  },
  learning: {
    words: "learning",
    noted: false,
    of: (site) => {
      const [oldest] = site.stations.flatMap((s) => (s.learned ? [s.learned.at] : [])).sort();
      return oldest ? [{ subjectId: null, name: "", last: dayOf(site, oldest) }] : [];
    },
  },
  spring: { words: "spring start", noted: true, of: wholeSite },
  winter: { words: "winter shut-down", noted: true, of: wholeSite },
};

const dayOf = (site: SiteFile, instant: string): string =>
  localDate(site.site.timeZone, Math.floor(Date.parse(instant) / 1000));

/** What of a site has to be done anew from time to time. A sensor never proved and a site never learned are findings of their own. */
export function dutySubjects(site: SiteFile, w = waterworks(site)): DutySubject[] {
  return DUTIES.flatMap((duty) =>
    DUTY_KINDS[duty]
      .of(site, w)
      .slice(0, MOST)
      .map((s) => ({ duty, ...s })),
  );
}

/** Done so long before its day of the year, it is done for that one, days. */
const EARLY_D = 182;

/**
 * The day by which something is to be done.
 *
 * @param last when it was done; null: nobody has noted it, and it is counted from when the site came here
 * @param since a date, as all are
 */
export function dueOn(rule: DutyRule, last: string | null, since: string): string {
  if ("months" in rule) return addMonths(last ?? since, rule.months);
  const from = last === null ? since : addDays(last, EARLY_D);
  const day = `${from.slice(0, 4)}-${rule.onDay}`;
  return day >= from ? day : `${Number(from.slice(0, 4)) + 1}-${rule.onDay}`;
}

/** What is asked of a site, each with its day, the earliest first. @param since when the site came here */
export function dueDays(
  subjects: readonly DutySubject[],
  done: readonly DutyDone[],
  rules: DutyRules,
  since: string,
): DueDay[] {
  return subjects
    .filter((s) => rules[s.duty].asked)
    .map((s): DueDay => {
      const noted = done.filter((d) => d.duty === s.duty && d.subjectId === s.subjectId).map((d) => d.on);
      const last = [...noted, ...(s.last ? [s.last] : [])].sort().at(-1) ?? null;
      return { ...s, last, on: dueOn(rules[s.duty], last, since) };
    })
    .sort((a, b) => a.on.localeCompare(b.on) || a.name.localeCompare(b.name));
}

/** What is overdue, a line for each kind: of what, and since when at the earliest. */
export function overdueWords(due: readonly DueDay[], today: string): [Duty, string][] {
  return DUTIES.flatMap((duty): [Duty, string][] => {
    const late = due.filter((d) => d.duty === duty && d.on < today);
    const [first] = late;
    if (!first) return [];
    const names = late.map((d) => d.name).filter(Boolean);
    return [
      [duty, `${DUTY_KINDS[duty].words} overdue since ${first.on}${names.length > 0 ? `: ${names.join(", ")}` : ""}`],
    ];
  });
}
