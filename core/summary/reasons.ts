import { nth } from "../checked.ts";
import { type ControllerFinding, controllerFindingWords } from "../field/controller-findings.ts";
import { type DueDay, type Duty, overdueWords } from "../visits/duties.ts";
import type { NightSummary } from "./night-summary.ts";
import type { SiteFacts } from "./site-facts.ts";

/** Why a site needs somebody: what Rounds finds sites by. */
export const REASON_CODES = [
  "alarms",
  "lockedOut",
  "hold",
  "idle",
  "off",
  "short",
  "errors",
  "overBudget",
  "silent",
  "controllers",
  "nights",
  "overdue",
  "notLearned",
  "todo",
] as const;
export type ReasonCode = (typeof REASON_CODES)[number];
/** @property weight how much it needs someone; those of a site are added up */
export type Reason = { code: ReasonCode; words: string; weight: number };

/** @property certain of what the nights say and nobody answered, a line each: whether it is certain */
export type Told = {
  summary: NightSummary;
  facts: SiteFacts;
  there: readonly ControllerFinding[];
  nights: readonly { certain: boolean }[];
  /** What has to be done anew, each with its day. */
  due: readonly DueDay[];
  /** @property overdue in words */
  todos: { open: number; overdue: readonly string[] };
  /** Nights of it are read: they say by themselves when a learned flow no longer holds. */
  nightsRead: boolean;
};

const IDLE: Record<NonNullable<SiteFacts["idle"]>, string> = {
  controllersOff: "every controller is off",
  noProgramInUse: "no program is in use",
};

const THERE: Record<ControllerFinding["code"], number> = {
  silent: 42,
  setThere: 38,
  clock: 36,
  refused: 34,
  partly: 32,
  differs: 6,
};

/** What nights say needs someone as much as what is wrong now, where it is certain. */
const SAID = { certain: 44, guessed: 8 };
/** A month's budget is told as running out from here on. */
const BUDGET_FROM = 0.95;
/** So many of a kind are told in words; the others are counted. */
const IN_WORDS = 2;

const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;

/** Open alarms and what is locked out: of now, whatever the settings. */
export function reasonsNow({ openAlarms, lockedOut }: { openAlarms: number; lockedOut: number }): Reason[] {
  return [
    ...(openAlarms > 0
      ? [{ code: "alarms" as const, words: many(openAlarms, "open alarm"), weight: 100 + openAlarms }]
      : []),
    ...(lockedOut > 0
      ? [{ code: "lockedOut" as const, words: `${lockedOut} locked out`, weight: 60 + lockedOut }]
      : []),
  ];
}

/** Why somebody has to look at a site, of its settings, its night and its controllers; the worst first. */
export function reasonsOf(told: Told): Reason[] {
  return [
    ...ofSettings(told),
    ...ofBudget(told),
    ...ofControllers(told),
    ...ofNights(told),
    ...ofDates(told),
    ...ofTodos(told),
  ].sort((a, b) => b.weight - a.weight);
}

function ofSettings({ summary, facts }: Told): Reason[] {
  const found: Reason[] = [];
  const add = (code: ReasonCode, weight: number, words: string): void => {
    found.push({ code, weight, words });
  };
  if (facts.hold === "indefinite") add("hold", 50, "off, no end set");
  else if (facts.hold !== null) add("hold", 5, `off until ${facts.hold}`);
  if (facts.idle) add("idle", 45, IDLE[facts.idle]);
  if (summary.shortfallMin >= 1) add("short", 40, `${Math.round(summary.shortfallMin)} min short tonight`);
  if (facts.errors.length > 0) add("errors", 30, errorWords(facts.errors));
  if (facts.off.controllers.length > 0) add("off", 12, `off: ${facts.off.controllers.join(", ")}`);
  if (facts.off.programs.length > 0) add("off", 4, `not in use: ${facts.off.programs.join(", ")}`);
  if (facts.unlearned > 0) add("notLearned", 3, `${facts.unlearned} not learned`);
  return found;
}

function errorWords(errors: readonly string[]): string {
  const more = errors.length - IN_WORDS;
  return errors.slice(0, IN_WORDS).join(" ") + (more > 0 ? ` ${many(more, "more error")} in the settings.` : "");
}

function ofBudget({ summary, facts }: Told): Reason[] {
  const share = nth(facts.ofBudget, Number(summary.date.slice(5, 7)) - 1);
  if (share === null || share < BUDGET_FROM) return [];
  const percent = Math.round(100 * share);
  return [
    {
      code: "overBudget",
      weight: share > 1 ? 28 : 8,
      words: `this month's programs take ${percent} % of its water budget`,
    },
  ];
}

/** What several controllers of a site say alike is told once. */
function ofControllers({ there }: Told): Reason[] {
  const by = new Map<string, Reason>();
  for (const f of there) {
    const words = controllerFindingWords(f);
    by.set(words, { code: f.code === "silent" ? "silent" : "controllers", weight: THERE[f.code], words });
  }
  return [...by.values()];
}

/** Their words stand as links of their own; here they weigh. */
const ofNights = ({ nights }: Told): Reason[] =>
  nights.map(({ certain }) => ({ code: "nights", weight: certain ? SAID.certain : SAID.guessed, words: "" }));

/** How much it needs somebody that something is overdue. Where nights are read they say by themselves whether a learned flow still holds. */
const LATE: Record<Duty, number> = { backflow: 18, sensorProof: 16, winter: 14, spring: 12, battery: 10, learning: 7 };

function ofDates({ summary, due, nightsRead }: Told): Reason[] {
  return overdueWords(due, summary.date)
    .filter(([duty]) => !(nightsRead && duty === "learning"))
    .map(([duty, words]) => ({ code: "overdue", weight: LATE[duty], words }));
}

function ofTodos({ todos: { open, overdue } }: Told): Reason[] {
  if (overdue.length > 0) return [{ code: "overdue", weight: 14, words: `to do, overdue: ${inFew(overdue)}` }];
  return open > 0 ? [{ code: "todo", weight: 3, words: `${open} to do` }] : [];
}

const inFew = (words: readonly string[]): string => {
  const more = words.length - IN_WORDS;
  return words.slice(0, IN_WORDS).join("; ") + (more > 0 ? `; and ${more} more` : "");
};
