import { z } from "zod";
import { addDays } from "../dates/wall-time.ts";
import { dateSchema } from "../dates/date-schema.ts";
import { MONTHS } from "../dates/months.ts";
import { laterBy } from "../dates/later-by.ts";
import { policyFrom, SCHOOLS } from "../limits/schools.ts";
import { currency, MOST_PERCENT, price } from "../site-file/basics-schema.ts";
import { controllerSettings, copyController, programPattern, putProgram } from "../site-file/copies.ts";
import { freshId } from "../site-file/fresh-id.ts";
import { type SiteFile, sourceSchema } from "../site-file/schema.ts";
import { startAt } from "../site-file/starts.ts";

/** Programs are meant by their name, whatever its capitals: sites that have none of that name are left as they are. */
const called = z.string().trim().min(1, "A program's name is needed.").max(100);
/** The site that it is copied from, for its words. */
const calledSite = z.string().min(1).max(200);
const percent = z.int().min(0).max(MOST_PERCENT);
/** Kinds of weather input, or all of them. */
export const INPUT_KINDS = ["all", "rain", "wind", "freeze", "moisture", "temperature", "switch"] as const;

/** Kinds of source, or all of them. */
export const SOURCE_KINDS = ["all", ...sourceSchema.shape.kind.options] as const;

/** One change that is made on many sites alike. */
export const manyChange = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("holdDays"), days: z.int().min(1, "is at least one day").max(90) }),
  z.strictObject({ kind: z.literal("holdUntil"), until: z.union([z.literal("indefinite"), dateSchema]) }),
  z.strictObject({ kind: z.literal("resume") }),
  z.strictObject({ kind: z.literal("percent"), percent: z.int().min(0).max(MOST_PERCENT) }),
  z.strictObject({ kind: z.literal("percentBy"), percent: z.int().min(-90).max(200) }),
  z.strictObject({ kind: z.literal("monthPercent"), month: z.int().min(1).max(12), percent }),
  z.strictObject({ kind: z.literal("programInUse"), program: called, inUse: z.boolean() }),
  z.strictObject({ kind: z.literal("programPercent"), program: called, percent }),
  z.strictObject({
    kind: z.literal("programHold"),
    program: called,
    days: z.int().min(1, "is at least one day").max(90),
  }),
  z.strictObject({ kind: z.literal("starts"), minutes: z.int().min(-720).max(720) }),
  z.strictObject({ kind: z.literal("inputBypassed"), input: z.enum(INPUT_KINDS), bypassed: z.boolean() }),
  z.strictObject({
    kind: z.literal("profile"),
    profileId: z.string().min(1).max(80),
    name: z.string().min(1).max(100),
  }),
  z.strictObject({
    kind: z.literal("limits"),
    highPercent: z.int().min(1).max(MOST_PERCENT),
    lowPercent: z.int().min(0).max(100),
    persistenceS: z.int().min(0).max(86_400),
  }),
  z.strictObject({
    kind: z.literal("waterPrice"),
    source: z.enum(SOURCE_KINDS),
    perM3: price,
    currency,
  }),
  z.strictObject({ kind: z.literal("programAs"), program: programPattern, from: calledSite }),
  z.strictObject({ kind: z.literal("controllersAs"), settings: controllerSettings, from: calledSite }),
  z.strictObject({
    kind: z.literal("startingPoint"),
    school: z.enum(SCHOOLS.map((s) => s.id) as [string, ...string[]]),
  }),
]);
export type ManyChange = z.infer<typeof manyChange>;
export type ManyKind = ManyChange["kind"];
type Of<K extends ManyKind> = Extract<ManyChange, { kind: K }>;
type Spec<K extends ManyKind> = {
  /** What it is, before its figure is known. */
  name: string;
  words: (change: Of<K>) => string;
  /** @param today where the site is, ISO */
  apply: (site: SiteFile, change: Of<K>, today: string) => void;
};

const programsCalled = (site: SiteFile, name: string): SiteFile["programs"] =>
  site.programs.filter((p) => p.name.trim().toLowerCase() === name.trim().toLowerCase());

const signed = (n: number): string => `${n > 0 ? "+" : "−"}${Math.abs(n)}`;

/** All of them, by kind. */
export const MANY: { [K in ManyKind]: Spec<K> } = {
  holdDays: {
    name: "Off for some days",
    words: ({ days }) => `off for ${days} day${days === 1 ? "" : "s"}`,
    apply: (site, { days }, today) => {
      site.site.holdUntil = addDays(today, days);
    },
  },
  holdUntil: {
    name: "Off until a day, or with no end",
    words: ({ until }) => (until === "indefinite" ? "off, no end set" : `off until ${until}`),
    apply: (site, { until }) => {
      site.site.holdUntil = until;
    },
  },
  resume: {
    name: "Water again",
    words: () => "water again",
    apply: (site) => {
      delete site.site.holdUntil;
    },
  },
  percent: {
    name: "Seasonal percent of the site",
    words: ({ percent }) => `seasonal percent ${percent} %`,
    apply: (site, { percent }) => {
      site.site.seasonalPercent = percent;
    },
  },
  percentBy: {
    name: "Seasonal percent more or less",
    words: ({ percent }) => `seasonal percent ${signed(percent)} % of what it is`,
    apply: (site, { percent }) => {
      const now = site.site.seasonalPercent ?? 100;
      site.site.seasonalPercent = Math.min(MOST_PERCENT, Math.round(now * (1 + percent / 100)));
    },
  },
  monthPercent: {
    name: "Percent of a month, every program",
    words: ({ month, percent }) => `${MONTHS[month - 1]} ${percent} % in every program`,
    apply: (site, { month, percent }) => {
      for (const p of site.programs)
        p.monthlyPercent = (p.monthlyPercent ?? Array<number>(12).fill(100)).map((was, i) =>
          i === month - 1 ? percent : was,
        );
    },
  },
  programInUse: {
    name: "A program in use or not",
    words: ({ program, inUse }) => `program ${program} ${inUse ? "in use" : "not in use"}`,
    apply: (site, { program, inUse }) => {
      for (const p of programsCalled(site, program)) {
        if (inUse) delete p.enabled;
        else p.enabled = false;
      }
    },
  },
  programPercent: {
    name: "Percent of a program",
    words: ({ program, percent }) => `program ${program} ${percent} %`,
    apply: (site, { program, percent }) => {
      for (const p of programsCalled(site, program)) p.seasonalPercent = percent;
    },
  },
  programHold: {
    name: "A program off for some days",
    words: ({ program, days }) => `program ${program} off for ${days} day${days === 1 ? "" : "s"}`,
    apply: (site, { program, days }, today) => {
      for (const p of programsCalled(site, program)) p.holdUntil = addDays(today, days);
    },
  },
  inputBypassed: {
    name: "Weather inputs bypassed or not",
    words: ({ input, bypassed }) =>
      `${input === "all" ? "every weather input" : `${input} inputs`} ${bypassed ? "bypassed" : "no longer bypassed"}`,
    apply: (site, { input, bypassed }) => {
      for (const i of site.weatherInputs ?? []) {
        if (input !== "all" && i.kind !== input) continue;
        if (bypassed) i.bypassed = true;
        else delete i.bypassed;
      }
    },
  },
  profile: {
    name: "Kind of the controllers",
    words: ({ name }) => `controllers are of the kind ${name}`,
    apply: (site, { profileId }) => {
      for (const c of site.controllers) c.profileId = profileId;
    },
  },
  limits: {
    name: "Limits by their figures",
    words: ({ highPercent, lowPercent, persistenceS }) =>
      `limits +${highPercent} and −${lowPercent} %, ${persistenceS} s`,
    apply: (site, { kind: _, ...figures }) => {
      // No longer those of a starting point.
      const { preset: _p, ...policy } = site.policy;
      site.policy = { ...policy, ...figures };
    },
  },
  waterPrice: {
    name: "Price of water",
    words: ({ source, perM3, currency }) =>
      `${source === "all" ? "water" : `${source} water`} at ${perM3} ${currency} per m³`,
    apply: (site, { source, perM3, currency }) => {
      const meant = site.sources.filter((s) => source === "all" || s.kind === source);
      if (meant.length > 0) site.site.currency = currency;
      for (const s of meant) s.price = { perM3 };
    },
  },
  programAs: {
    name: "A program as on another site",
    words: ({ program, from }) => `program ${program.name} as on ${from}`,
    apply: (site, { program }) => {
      site.programs = putProgram(site, program, () => freshId(site, "program")).programs;
    },
  },
  controllersAs: {
    name: "Controllers set as one of another site",
    words: ({ from }) => `controllers set as on ${from}`,
    apply: (site, { settings }) => {
      site.controllers = copyController(site, settings, null).controllers;
    },
  },
  starts: {
    name: "Start times moved",
    words: ({ minutes }) => `every start ${Math.abs(minutes)} min ${minutes < 0 ? "earlier" : "later"}`,
    apply: (site, { minutes }) => {
      for (const p of site.programs)
        p.starts = p.starts.map((s) => {
          const at = laterBy(startAt(s), minutes);
          return typeof s === "string" ? at : { ...s, at };
        });
    },
  },
  startingPoint: {
    name: "Limits from a starting point",
    words: ({ school }) => `limits from the starting point ${SCHOOLS.find((s) => s.id === school)?.name ?? school}`,
    apply: (site, { school }) => {
      const found = SCHOOLS.find((s) => s.id === school);
      if (found) site.policy = policyFrom(site, found);
    },
  },
};

/** Kinds that are begun where what is copied stands, and chosen nowhere else. */
export const BEGUN_ELSEWHERE: ReadonlySet<ManyKind> = new Set(["programAs", "controllersAs"]);

const specOf = (change: ManyChange): Spec<ManyKind> => MANY[change.kind] as unknown as Spec<ManyKind>;

/** The change in words, as a deed is called. */
export const manyWords = (change: ManyChange): string => specOf(change).words(change);

/**
 * A site with the change made; the parts that no such change touches are the very same as before.
 *
 * @param today where the site is, ISO
 */
export function changedSite(site: SiteFile, change: ManyChange, today: string): SiteFile {
  const next = {
    ...site,
    site: { ...site.site },
    programs: site.programs.map((p) => ({ ...p })),
    controllers: site.controllers.map((c) => ({ ...c })),
    sources: site.sources.map((s) => ({ ...s })),
    ...(site.weatherInputs ? { weatherInputs: site.weatherInputs.map((i) => ({ ...i })) } : {}),
  };
  specOf(change).apply(next, change, today);
  return next;
}
