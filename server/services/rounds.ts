import type { RoundsRow, SiteNames, SiteNow } from "../../contracts/rounds.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import {
  type ControllerFinding,
  controllerFindings,
  controllerFindingWords,
} from "../../core/field/controller-findings.ts";
import { isOpen } from "../../core/reckon/still-open.ts";
import type { SiteFacts } from "../../core/summary/site-facts.ts";
import type { SignedIn } from "../auth/session.ts";
import { sitesNow } from "../db/field.ts";
import { type Said, sitesSay } from "../db/mornings.ts";
import { listSites, type SiteListRow, siteNames } from "../db/sites.ts";
import { allControllers } from "./all-controllers.ts";
import { type Night, workOutNight } from "./nights.ts";

/** So long Rounds waits for nights that are being worked out, ms; after that it shows the last one, and says so. */
const WAITS_MS = 60;

/**
 * One row a site, those that need someone today first. What it shows is kept by revision and the site's own date; only what changed is worked out.
 *
 * @param waitsMs for nights that are being worked out
 */
export async function rounds(user: SignedIn, now: Date, waitsMs = WAITS_MS): Promise<RoundsRow[]> {
  const [rows, there, nights] = await Promise.all([
    listSites(user.organisationId),
    findingsThere(user, now),
    openSaid(user),
  ]);
  const late = new Promise<null>((yes) => setTimeout(() => yes(null), waitsMs).unref());
  const made = await Promise.all(
    rows.map((row) => oneRow(user, row, now, late, there.get(row.id) ?? [], nights.get(row.id) ?? [])),
  );
  return made.sort((a, b) => b.urgency - a.urgency || a.name.localeCompare(b.name));
}

/** What each of the sites read last, for those whose gateway was ever heard. */
export const roundsNow = (user: SignedIn): Promise<SiteNow[]> => sitesNow(user.organisationId);

/** Of a word about what sites read now, what is of sites that somebody sees who sees some only. */
export async function nowOfOwnSites(user: SignedIn): Promise<(data: string) => string | null> {
  const own = new Set((await siteNames(user.organisationId)).map((s) => s.id));
  return (data) => {
    const word = JSON.parse(data) as { type: string; sites?: SiteNow[] };
    if (!word.sites) return data;
    const sites = word.sites.filter((s) => own.has(s.siteId));
    return sites.length > 0 ? JSON.stringify({ ...word, sites }) : null;
  };
}

async function oneRow(
  user: SignedIn,
  row: SiteListRow,
  now: Date,
  late: Promise<null>,
  there: ControllerFinding[],
  said: Said[],
): Promise<RoundsRow> {
  const { night, old } = await nightOf(user, row, now, late);
  const { summary, facts } = night;
  const shown = {
    id: row.id,
    name: row.name,
    client: row.client,
    area: row.area,
    crew: row.crew,
    stations: facts.stations,
    controllers: facts.controllers,
    units: facts.units,
    hold: facts.hold,
    localDate: summary.date,
    openAlarms: row.openAlarms,
    lockedOut: row.lockedOut,
    oldestLearned:
      facts.oldestLearned === null ? null : localDate(facts.timeZone, Date.parse(facts.oldestLearned) / 1000),
    unlearned: facts.unlearned,
    summary,
    version: row.version,
    old,
  };
  return { ...shown, ...urgencyOf(shown, facts.idle, there, said), nights: said.map((s) => s.head) };
}

/** The night that it is where the site is; or the last that was worked out, while this one is. */
async function nightOf(
  user: SignedIn,
  row: SiteListRow,
  now: Date,
  late: Promise<null>,
): Promise<{ night: Night; old: boolean }> {
  const { summary, facts } = row;
  const known = summary && facts ? { summary, facts } : null;
  const today = known?.summary.date === localDate(known?.facts.timeZone ?? "UTC", now.getTime() / 1000);
  if (known && today && row.summaryVersion === row.version) return { night: known, old: false };
  const work = workOutNight(user.organisationId, row, now);
  // One of which nothing was ever worked out has nothing to show yet.
  if (!known) return { night: await work, old: false };
  const night = await Promise.race([work.catch(() => null), late]);
  return night ? { night, old: false } : { night: known, old: true };
}

const IDLE: Record<NonNullable<SiteFacts["idle"]>, string> = {
  controllersOff: "every controller is off",
  noProgramInUse: "no program is in use",
};

/** How much each finding at a site's controllers needs someone. */
const THERE: Record<ControllerFinding["code"], number> = {
  silent: 42,
  setThere: 38,
  clock: 36,
  refused: 34,
  partly: 32,
  differs: 6,
};

/** How much what nights say needs someone: as much as what is wrong now, where it is certain. */
const SAID = { certain: 44, guessed: 8 };

/** What the nights of each site say that nobody has answered. */
async function openSaid(user: SignedIn): Promise<Map<string, Said[]>> {
  return new Map(
    (await sitesSay(user.organisationId)).map(({ siteId, said, answers }) => [
      siteId,
      said.filter((f) => isOpen(f, answers)),
    ]),
  );
}

/** What somebody has to look at, at the controllers of each site. */
async function findingsThere(user: SignedIn, now: Date): Promise<Map<string, ControllerFinding[]>> {
  const by = new Map<string, ControllerFinding[]>();
  for (const line of (await allControllers(user)).lines)
    by.set(line.siteId, [...(by.get(line.siteId) ?? []), ...controllerFindings(line, now.getTime())]);
  return by;
}

function urgencyOf(
  row: Omit<RoundsRow, "urgency" | "why" | "nights">,
  idle: SiteFacts["idle"],
  there: ControllerFinding[],
  said: Said[],
): { urgency: number; why: string[] } {
  const why: string[] = [];
  let urgency = 0;
  const add = (weight: number, words: string): void => {
    urgency += weight;
    why.push(words);
  };
  if (row.openAlarms > 0) add(100 + row.openAlarms, `${row.openAlarms} open alarm${row.openAlarms > 1 ? "s" : ""}`);
  if (row.lockedOut > 0) add(60 + row.lockedOut, `${row.lockedOut} locked out`);
  if (row.hold === "indefinite") add(50, "off, no end set");
  if (idle) add(45, IDLE[idle]);
  if (row.summary.shortfallMin >= 1) add(40, `${Math.round(row.summary.shortfallMin)} min short tonight`);
  if (row.summary.findings.errors > 0)
    add(30, `${row.summary.findings.errors} error${row.summary.findings.errors > 1 ? "s" : ""} in the settings`);
  const told = new Set<string>();
  for (const f of there) {
    const words = controllerFindingWords(f);
    if (!told.has(words)) add(THERE[f.code], words);
    told.add(words);
  }
  for (const { certain } of said) urgency += certain ? SAID.certain : SAID.guessed;
  if (row.hold !== null && row.hold !== "indefinite") add(5, `off until ${row.hold}`);
  if (row.unlearned > 0) add(3, `${row.unlearned} not learned`);
  return { urgency, why };
}

/** Names of all sites, for going from one to another. */
export async function siteList(user: SignedIn): Promise<SiteNames> {
  return { sites: await siteNames(user.organisationId) };
}
