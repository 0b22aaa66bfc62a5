import {
  type RoundsChoice,
  type RoundsPage,
  type RoundsPlaces,
  type RoundsQuery,
  type RoundsRow,
  roundsQuery,
  type SiteNames,
  type SiteNow,
} from "../../contracts/rounds.ts";
import { nth } from "../../core/checked.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { INVENTED } from "../../core/profiles/profile.ts";
import { reasonsNow } from "../../core/summary/reasons.ts";
import type { SignedIn } from "../auth/session.ts";
import { sitesNow } from "../db/field.ts";
import { profilesOf } from "../db/profiles.ts";
import { kindsThere, roundCounts, roundPlaces, roundRows, type RoundRow } from "../db/rounds.ts";
import { groupsOf } from "../db/site-groups.ts";
import { siteNames } from "../db/sites.ts";

/** So many sites stand on a page. */
export const PAGE_SIZE = 50;
/** All sites, those that need someone first. */
export const ALL_SITES: RoundsQuery = roundsQuery.parse({});

/**
 * A page of the sites that are asked for, a row each. What it shows was made ahead (rounds-ahead.ts): nothing is worked out here.
 *
 * @param now says whether the night that is kept is still the one that it is where the site is
 */
export async function rounds(user: SignedIn, query: RoundsQuery, now: Date): Promise<RoundsPage> {
  const [{ rows, found }, counts] = await Promise.all([
    roundRows(user.organisationId, query, { from: (query.page - 1) * PAGE_SIZE, count: PAGE_SIZE }),
    roundCounts(user.organisationId),
  ]);
  return { rows: rows.map((row) => oneRow(row, now)), found, ...counts, pageSize: PAGE_SIZE };
}

function oneRow(row: RoundRow, now: Date): RoundsRow {
  const { summary, facts, reasons, summaryVersion, archived, found: _, ...of } = row;
  const why = [...reasonsNow(of), ...reasons.filter((r) => r.words !== "")].map((r) => r.words);
  if (!summary || !facts)
    return {
      ...of,
      stations: 0,
      controllers: 0,
      units: "metric",
      hold: null,
      localDate: now.toISOString().slice(0, 10),
      oldestLearned: null,
      unlearned: 0,
      ofBudget: null,
      summary: null,
      old: true,
      why,
    };
  const { timeZone } = facts;
  return {
    ...of,
    stations: facts.stations,
    controllers: facts.controllers,
    units: facts.units,
    hold: facts.hold,
    localDate: summary.date,
    oldestLearned: facts.oldestLearned && localDate(timeZone, Date.parse(facts.oldestLearned) / 1000),
    unlearned: facts.unlearned,
    ofBudget: nth(facts.ofBudget, Number(summary.date.slice(5, 7)) - 1),
    summary: { ...summary, sketch: summary.sketch.map(Math.round).join(" ") },
    // What nobody works on is of when it was archived.
    old: !archived && (summaryVersion !== row.version || summary.date !== localDate(timeZone, now.getTime() / 1000)),
    why,
  };
}

/** Where the sites are that are asked for. */
export async function roundsPlaces(user: SignedIn, query: RoundsQuery): Promise<RoundsPlaces> {
  const all = await roundPlaces(user.organisationId, query);
  const places = all.flatMap(({ latitudeDeg, longitudeDeg, openAlarms, lockedOut, firstReason, ...site }) => {
    if (latitudeDeg === null || longitudeDeg === null) return [];
    const why = reasonsNow({ openAlarms, lockedOut })[0]?.words ?? firstReason;
    return [{ ...site, latitudeDeg, longitudeDeg, why }];
  });
  return { places, without: all.length - places.length };
}

const SOURCE_WORDS: Record<string, string> = {
  municipal: "from a city main",
  well: "from a well",
  pond: "from a pond",
  reclaimed: "reclaimed water",
  tank: "from a tank",
};

/** What the sites of an organisation may be found by. */
export async function roundsChoices(user: SignedIn): Promise<RoundsChoice[]> {
  const [groups, kinds, own] = await Promise.all([
    groupsOf(user.organisationId),
    kindsThere(user.organisationId),
    profilesOf(user.organisationId),
  ]);
  const profiles = new Map([...INVENTED, ...own].map((p) => [p.id, p.name]));
  return [
    ...groups.map((g) => ({ kind: g.kind, value: `${g.kind} ${g.name}`, name: g.name })),
    ...kinds.profileIds.map((id) => ({ kind: "kind" as const, value: `kind ${id}`, name: profiles.get(id) ?? id })),
    ...kinds.sourceKinds.map((k) => ({ kind: "source" as const, value: `source ${k}`, name: SOURCE_WORDS[k] ?? k })),
  ];
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

/** Names of all sites, for going from one to another. */
export async function siteList(user: SignedIn): Promise<SiteNames> {
  return { sites: await siteNames(user.organisationId) };
}
