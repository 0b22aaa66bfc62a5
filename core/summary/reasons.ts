import { nth } from "../checked.ts";
import { type ControllerFinding, controllerFindingWords } from "../field/controller-findings.ts";
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
/** So many of the errors of the settings are told in words; the others are counted. */
const ERRORS_IN_WORDS = 2;

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
  return [...ofSettings(told), ...ofBudget(told), ...ofControllers(told), ...ofNights(told), ...ofYears(told)].sort(
    (a, b) => b.weight - a.weight,
  );
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
  const more = errors.length - ERRORS_IN_WORDS;
  return errors.slice(0, ERRORS_IN_WORDS).join(" ") + (more > 0 ? ` ${many(more, "more error")} in the settings.` : "");
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

function ofYears({ summary, facts, nightsRead }: Told): Reason[] {
  const late = facts.due.filter((d) => d.on < summary.date);
  const proofs = late.filter((d) => d.what === "sensorProof").map((d) => d.name);
  const found: Reason[] = [];
  if (proofs.length > 0)
    found.push({ code: "overdue", weight: 16, words: `sensor not proved for over a year: ${proofs.join(", ")}` });
  if (!nightsRead && late.some((d) => d.what === "learning"))
    found.push({ code: "overdue", weight: 7, words: "oldest learning is over a year old" });
  return found;
}
