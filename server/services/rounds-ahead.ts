import { type ControllerFinding, controllerFindings } from "../../core/field/controller-findings.ts";
import { isOpen } from "../../core/reckon/still-open.ts";
import { reasonsOf } from "../../core/summary/reasons.ts";
import { listen, tell } from "../db/listen.ts";
import { sitesSay } from "../db/mornings.ts";
import { anyDue, doneDue, keepRounds, noteDue, noteSilentDue, summariesOf, takeDue } from "../db/rounds.ts";
import { openTodos } from "../db/todos.ts";
import { log } from "../log.ts";
import { dueOfSites } from "./duties.ts";
import { linesThere } from "./all-controllers.ts";
import { eachOf } from "./each-of.ts";
import { oldNights, workOutNight } from "./nights.ts";

/** So many sites are made at once; what comes meanwhile is made next. */
const AT_ONCE = 40;
const NIGHTS_AT_ONCE = 4;
/** What changes in one go is made in one go, ms. */
const GATHER_MS = 400;
/** The same site's are made no oftener, s: while somebody saves again and again, or many do, they save first. */
const REST_S = 3;

/**
 * Makes the rounds of sites that are due, their nights first where these are of another day or revision, and tells whoever looks at them. A night that cannot be worked out
 * stops no other's.
 *
 * @param restS sites whose round was made within so many seconds are left
 * @returns how many were made
 */
export async function makeDueRounds(now: Date, restS = 0): Promise<number> {
  let made = 0;
  for (;;) {
    const due = await takeDue(AT_ONCE, restS);
    if (due.length === 0) return made;
    await eachOf(
      await oldNights(
        now,
        due.map((d) => d.siteId),
      ),
      NIGHTS_AT_ONCE,
      (site) =>
        workOutNight(site, now).catch((error) =>
          log.warn({ err: error, site: site.id }, "a night was not worked out ahead"),
        ),
    );
    for (const organisationId of new Set(due.map((d) => d.organisationId))) {
      const siteIds = due.filter((d) => d.organisationId === organisationId).map((d) => d.siteId);
      await makeRounds(organisationId, siteIds, now);
      await tell(`rounds_${organisationId}`, { type: "rows" });
    }
    await doneDue(due);
    made += due.length;
  }
}

/** Makes the rounds of these sites from what was worked out of them, what their controllers hold and what their nights say. */
export async function makeRounds(organisationId: string, siteIds: string[], now: Date): Promise<void> {
  const [summaries, lines, said, todos] = await Promise.all([
    summariesOf(siteIds),
    linesThere(organisationId, siteIds),
    sitesSay(organisationId, siteIds),
    openTodos(siteIds),
  ]);
  const due = await dueOfSites(organisationId, summaries);
  const there = (siteId: string): ControllerFinding[] =>
    lines.filter((l) => l.siteId === siteId).flatMap((l) => controllerFindings(l, now.getTime()));
  const says = new Map(said.map((s) => [s.siteId, s]));
  await keepRounds(
    organisationId,
    summaries.map(({ siteId, summary, facts }) => {
      const morning = says.get(siteId);
      const nights = (morning?.said ?? []).filter((f) => isOpen(f, morning?.answers ?? []));
      const toDo = todos.filter((t) => t.siteId === siteId);
      const reasons = reasonsOf({
        summary,
        facts,
        there: there(siteId),
        due: due.get(siteId) ?? [],
        todos: {
          open: toDo.length,
          overdue: toDo.filter((t) => t.due !== null && t.due < summary.date).map((t) => t.words),
        },
        nights,
        nightsRead: morning !== undefined,
      });
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
        await makeDueRounds(new Date(), REST_S)
          .then(async () => {
            if (await anyDue()) again = true;
          })
          .catch((error) => log.warn({ err: error }, "rounds were not made ahead"));
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

/** By the minute: where it is another day, how long a gateway is silent, and what no word of the database told. */
export async function makeRoundsByTheMinute(now: Date): Promise<void> {
  await noteDue(await oldNights(now));
  await noteSilentDue();
  await makeDueRounds(now);
}
