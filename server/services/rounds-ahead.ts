import { type ControllerFinding, controllerFindings } from "../../core/field/controller-findings.ts";
import { isOpen } from "../../core/reckon/still-open.ts";
import { reasonsOf } from "../../core/summary/reasons.ts";
import { inTransaction } from "../db/connection.ts";
import { listen, tell } from "../db/listen.ts";
import { sitesSay } from "../db/mornings.ts";
import { keepRounds, noteSilentDue, summariesOf, takeDue } from "../db/rounds.ts";
import { log } from "../log.ts";
import { linesThere } from "./all-controllers.ts";

/** So many sites are made at once; what comes meanwhile is made next. */
const AT_ONCE = 100;
/** What changes in one go is made in one go, ms. */
const GATHER_MS = 150;

/** Makes the rounds of sites that are due, and tells whoever looks at them. @returns how many were made */
export async function makeDueRounds(now: Date): Promise<number> {
  let made = 0;
  for (;;) {
    const due = await inTransaction(async () => {
      const taken = await takeDue(AT_ONCE);
      for (const [organisationId, siteIds] of byOrganisation(taken)) await makeRounds(organisationId, siteIds, now);
      return taken;
    });
    made += due.length;
    for (const organisationId of byOrganisation(due).keys()) await tell(`rounds_${organisationId}`, { type: "rows" });
    if (due.length < AT_ONCE) return made;
  }
}

const byOrganisation = (of: { organisationId: string; siteId: string }[]): Map<string, string[]> =>
  of.reduce(
    (by, s) => by.set(s.organisationId, [...(by.get(s.organisationId) ?? []), s.siteId]),
    new Map<string, string[]>(),
  );

/** Makes the rounds of these sites from what was worked out of them, what their controllers hold and what their nights say. */
export async function makeRounds(organisationId: string, siteIds: string[], now: Date): Promise<void> {
  const [summaries, lines, said] = await Promise.all([
    summariesOf(siteIds),
    linesThere(organisationId, siteIds),
    sitesSay(organisationId, siteIds),
  ]);
  const there = (siteId: string): ControllerFinding[] =>
    lines.filter((l) => l.siteId === siteId).flatMap((l) => controllerFindings(l, now.getTime()));
  const says = new Map(said.map((s) => [s.siteId, s]));
  await keepRounds(
    organisationId,
    summaries.map(({ siteId, summary, facts }) => {
      const morning = says.get(siteId);
      const nights = (morning?.said ?? []).filter((f) => isOpen(f, morning?.answers ?? []));
      const reasons = reasonsOf({ summary, facts, there: there(siteId), nights, nightsRead: morning !== undefined });
      return {
        siteId,
        urgency: reasons.reduce((sum, r) => sum + r.weight, 0),
        reasons,
        nights: nights.map((n) => n.head),
      };
    }),
  );
}

/** In a worker: makes rounds as they fall due, from now on. @returns what ends it */
export async function makeRoundsAhead(): Promise<() => Promise<void>> {
  let ended = false;
  let again = false;
  let working: Promise<unknown> | null = null;
  const work = async (): Promise<void> => {
    do {
      again = false;
      await new Promise((r) => setTimeout(r, GATHER_MS));
      if (!ended)
        await makeDueRounds(new Date()).catch((error) => log.warn({ err: error }, "rounds were not made ahead"));
    } while (again && !ended);
    working = null;
  };
  const due = (): void => {
    again = true;
    working ??= work();
  };
  const deaf = await listen("round_due", due);
  due();
  return async () => {
    ended = true;
    deaf();
    await working;
  };
}

/** By the minute: how long a gateway is silent, and what no word of the database told. */
export async function makeRoundsByTheMinute(now: Date): Promise<void> {
  await noteSilentDue();
  await makeDueRounds(now);
}
