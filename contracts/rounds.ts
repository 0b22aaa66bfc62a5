import { z } from "zod";
import { REASON_CODES } from "../core/summary/reasons.ts";
import { GROUP_KINDS } from "./groups.ts";

/** What Rounds and the tell-line say of a night; as core/summary/night-summary.ts works it out. */
const nightSummary = z.strictObject({
  date: z.string(),
  finish: z.string().nullable(),
  makespanS: z.number(),
  ratio: z.number().nullable(),
  shortfallMin: z.number(),
  watched: z.number().nullable(),
  findings: z.strictObject({ errors: z.number(), warnings: z.number(), notes: z.number() }),
  binding: z
    .strictObject({
      elementId: z.string(),
      name: z.string(),
      ceilingLpm: z.number(),
      rule: z.string(),
      deviceId: z.string().nullable(),
      peakLpm: z.number(),
    })
    .nullable(),
  /** The night in small, whole L/min with spaces between: as one word it is sent and read at once. */
  sketch: z.string(),
  litres: z.number(),
});

/** One site on Rounds. */
export const roundsRow = z.strictObject({
  id: z.string(),
  name: z.string(),
  /** The groups it is in, by name. */
  client: z.string().nullable(),
  area: z.string().nullable(),
  crew: z.string().nullable(),
  stations: z.number(),
  controllers: z.number(),
  units: z.enum(["us", "metric"]),
  hold: z.string().nullable(),
  localDate: z.string(),
  openAlarms: z.number(),
  lockedOut: z.number(),
  /** A date of the site. */
  oldestLearned: z.string().nullable(),
  unlearned: z.number(),
  /** What the programs of this month take of its water budget, 1: all of it. */
  ofBudget: z.number().nullable(),
  /** Null while nothing is worked out of it yet. */
  summary: nightSummary.nullable(),
  version: z.number(),
  /** What is shown of the night is of an earlier revision or day; it is being worked out anew. */
  old: z.boolean(),
  why: z.array(z.string()),
  /** What its nights say has changed and nobody has answered, a line each. */
  nights: z.array(z.string()),
});
export type RoundsRow = z.infer<typeof roundsRow>;

/** What Rounds is sorted by. */
export const ROUNDS_SORTS = [
  "need",
  "name",
  "client",
  "area",
  "crew",
  "stations",
  "ends",
  "short",
  "binds",
  "watched",
  "learned",
  "budget",
] as const;
export type RoundsSort = (typeof ROUNDS_SORTS)[number];
/** These begin with the most. */
export const MOST_FIRST: ReadonlySet<RoundsSort> = new Set(["need", "stations", "ends", "short", "budget"]);
/** What the sites of a part are in: a group, a kind of controller (by its id), or a kind of source. */
export const WITHIN_KINDS = [...GROUP_KINDS, "kind", "source"] as const;
export type WithinKind = (typeof WITHIN_KINDS)[number];

/** Which sites are found, and how they are sorted: as the address of Rounds says it. What cannot be meant is left out. */
export const roundsQuery = z.object({
  find: z.string().trim().max(200).catch("").default(""),
  only: z
    .enum(["all", "needs", ...REASON_CODES, "archived"])
    .catch("all")
    .default("all"),
  /** "client Fenner Care": of which kind, and which. */
  within: z
    .string()
    .max(200)
    .transform((words) => {
      const kind = WITHIN_KINDS.find((k) => words.startsWith(`${k} `));
      return kind ? { kind, name: words.slice(kind.length + 1) } : null;
    })
    .nullable()
    .catch(null)
    .default(null),
  sort: z.enum(ROUNDS_SORTS).catch("need").default("need"),
  /** The other way round. */
  turned: z
    .literal("1")
    .transform(() => true)
    .or(z.boolean())
    .catch(false)
    .default(false),
  page: z.coerce.number().int().min(1).max(10_000).catch(1).default(1),
});
export type RoundsQuery = z.output<typeof roundsQuery>;

/** A page of Rounds, of how many found, of how many in all. */
export type RoundsPage = { rows: RoundsRow[]; found: number; all: number; openAlarms: number; pageSize: number };
/** A site where it is, degrees north and east. @property needs whether it needs somebody today */
export const sitePlace = z.strictObject({
  id: z.string(),
  name: z.string(),
  latitudeDeg: z.number(),
  longitudeDeg: z.number(),
  needs: z.boolean(),
  why: z.string().nullable(),
});
export type SitePlace = z.infer<typeof sitePlace>;
/** @property without how many of the sites that are found have no position */
export type RoundsPlaces = { places: SitePlace[]; without: number };
/** What sites may be found by: groups and kinds by name, each as `within` takes it. */
export type RoundsChoice = { kind: WithinKind; value: string; name: string };

/** Sites by name, for going from one to another. */
export const siteNames = z.strictObject({ sites: z.array(z.strictObject({ id: z.string(), name: z.string() })) });
export type SiteNames = z.infer<typeof siteNames>;

/** What a live site reads now, L/min, against what should flow. */
export const siteNow = z.strictObject({
  siteId: z.string(),
  at: z.string(),
  readingLpm: z.number(),
  expectedLpm: z.number().nullable(),
  /** Against the limits of what is open. */
  state: z.enum(["rest", "inside", "over", "under"]),
  open: z.number(),
});
export type SiteNow = z.infer<typeof siteNow>;

/** What an address of Rounds asks of the server, as one text; columns and the view are the page's own. */
export function askedOfRounds(address: URLSearchParams): string {
  const asked = new URLSearchParams(address);
  asked.delete("cols");
  asked.delete("view");
  return asked.toString();
}
