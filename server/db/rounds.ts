import { z } from "zod";
import { type RoundsQuery, type RoundsSort, sitePlace } from "../../contracts/rounds.ts";
import type { NightSummary } from "../../core/summary/night-summary.ts";
import type { Reason } from "../../core/summary/reasons.ts";
import type { SiteFacts } from "../../core/summary/site-facts.ts";
import { anywhere } from "./anywhere.ts";
import { db, planned } from "./connection.ts";

/** What Rounds shows of a site, as it is kept; null where nothing was worked out of it yet. */
export type RoundRow = {
  id: string;
  name: string;
  client: string | null;
  area: string | null;
  crew: string | null;
  version: number;
  archived: boolean;
  openAlarms: number;
  lockedOut: number;
  summary: NightSummary | null;
  facts: SiteFacts | null;
  summaryVersion: number | null;
  reasons: Reason[];
  nights: string[];
  found: number;
};

/** Weights of what is of now are those of core/summary/reasons.ts, so that sites sort alike here and there. */
const URGENCY = `coalesce(r.urgency, 0)
  + case when coalesce(al.open, 0) > 0 then 100 + al.open else 0 end
  + case when coalesce(lo.locked, 0) > 0 then 60 + lo.locked else 0 end`;

/** By what Rounds is sorted, each in its usual order; equal ones by name. */
const SORTS: Record<RoundsSort, string> = {
  need: `(${URGENCY}) desc`,
  name: "lower(s.name) asc",
  client: "lower(c.name) asc nulls last",
  area: "lower(a.name) asc nulls last",
  crew: "lower(w.name) asc nulls last",
  stations: "(m.facts ->> 'stations')::int desc nulls last",
  ends: "m.summary ->> 'finish' desc nulls last",
  short: "(m.summary ->> 'shortfallMin')::float8 desc nulls last",
  binds: "m.summary -> 'binding' ->> 'name' asc nulls last",
  watched: "(m.summary ->> 'watched')::float8 asc nulls last",
  learned: "m.facts ->> 'oldestLearned' asc nulls first",
  budget:
    "(m.facts -> 'ofBudget' ->> (extract(month from (m.summary ->> 'date')::date)::int - 1))::float8 desc nulls last",
};
const turned = (order: string): string =>
  order.replace(/ (asc|desc)/, (_, way: string) => (way === "asc" ? " desc" : " asc"));

const FROM = `from site s
  left join site_summary m on m.site_id = s.id
  left join site_round r on r.site_id = s.id
  left join site_group c on c.id = s.client_id
  left join site_group a on a.id = s.area_id
  left join site_group w on w.id = s.crew_id
  left join (select site_id, count(*)::int as open from alarm where organisation_id = :organisationId and state <> 'cleared' group by site_id) al on al.site_id = s.id
  left join (select site_id, count(*)::int as locked from element where organisation_id = :organisationId and locked_out and present group by site_id) lo on lo.site_id = s.id
  where s.organisation_id = :organisationId and (s.archived_at is not null) = :archived`;

/** What passes each choice that is no reason of its own. */
const ONLY: Record<string, string> = {
  needs: `(${URGENCY}) >= 30`,
  alarms: "coalesce(al.open, 0) > 0",
  lockedOut: "coalesce(lo.locked, 0) > 0",
};
const HAS_REASON = "r.reasons @> jsonb_build_array(jsonb_build_object('code', cast(:only as text)))";
const WITHIN: Record<string, string> = {
  client: "c.name = :within",
  area: "a.name = :within",
  crew: "w.name = :within",
  kind: "m.facts -> 'profileIds' @> to_jsonb(cast(:within as text))",
  source: "m.facts -> 'sourceKinds' @> to_jsonb(cast(:within as text))",
};

type Asked = { where: string; bindings: Record<string, string | number | boolean> };
function asked(organisationId: string, { find, only, within }: RoundsQuery): Asked {
  const where: string[] = [];
  const bindings: Asked["bindings"] = { organisationId, archived: only === "archived" };
  for (const [i, word] of find.split(/\s+/).filter(Boolean).entries()) {
    where.push(`concat_ws(' ', s.name, c.name, a.name, w.name) ilike :word${i}`);
    bindings[`word${i}`] = anywhere(word);
  }
  if (only !== "all" && only !== "archived") {
    const known = ONLY[only];
    where.push(known ?? HAS_REASON);
    if (!known) bindings["only"] = only;
  }
  if (within) {
    where.push(WITHIN[within.kind] as string);
    bindings["within"] = within.name;
  }
  return { where: where.map((w) => ` and ${w}`).join(""), bindings };
}

/** A page of the sites that are asked for, sorted; one query, whatever their number, and no whole files. */
export async function roundRows(
  organisationId: string,
  query: RoundsQuery,
  page: { from: number; count: number },
): Promise<{ rows: RoundRow[]; found: number }> {
  const { where, bindings } = asked(organisationId, query);
  const order = query.turned ? turned(SORTS[query.sort]) : SORTS[query.sort];
  // Which they are first, then what is shown of them: what is not shown is not read.
  const { rows } = await planned(
    `with page as (
       select s.id, s.name, c.name as client, a.name as area, w.name as crew, s.version, s.archived_at is not null as archived,
         coalesce(al.open, 0) as open_alarms, coalesce(lo.locked, 0) as locked_out,
         row_number() over (order by ${order}, lower(s.name), s.id) as place,
         count(*) over ()::int as found
       ${FROM}${where} order by place limit :count offset :from)
     select p.*, m.summary, m.facts, m.version as summary_version, coalesce(r.reasons, '[]') as reasons, coalesce(r.nights, '[]') as nights
     from page p left join site_round r on r.site_id = p.id
       left join site_summary m on m.site_id = p.id
     order by p.place`,
    { ...bindings, ...page },
  );
  if (rows.length > 0 || page.from === 0) return { rows, found: rows[0]?.found ?? 0 };
  const { rows: counted } = await db().raw(`select count(*)::int as found ${FROM}${where}`, bindings);
  return { rows, found: counted[0].found };
}

const places = z.array(
  sitePlace.omit({ why: true }).extend({
    latitudeDeg: z.number().nullable(),
    longitudeDeg: z.number().nullable(),
    openAlarms: z.number(),
    lockedOut: z.number(),
    firstReason: z.string().nullable(),
  }),
);
/** Where the sites are that are asked for, all of them, each with the first that somebody is needed for (what its nights say has no words among the reasons), those that need somebody first; null where nobody entered it. */
export async function roundPlaces(organisationId: string, query: RoundsQuery): Promise<z.infer<typeof places>> {
  const { where, bindings } = asked(organisationId, query);
  const { rows } = await db().raw(
    `select s.id, s.name, (m.facts -> 'place' ->> 'latitudeDeg')::float8 as latitude_deg, (m.facts -> 'place' ->> 'longitudeDeg')::float8 as longitude_deg,
       ${ONLY["needs"]} as needs, coalesce(al.open, 0) as open_alarms, coalesce(lo.locked, 0) as locked_out, coalesce(nullif(r.reasons -> 0 ->> 'words', ''), r.nights ->> 0) as first_reason
     ${FROM}${where} order by (${URGENCY}) desc, lower(s.name), s.id`,
    bindings,
  );
  return places.parse(rows);
}

const counts = z.object({ all: z.number(), openAlarms: z.number() });
/** How many sites are worked on, and how many alarms stand open over all of them. */
export async function roundCounts(organisationId: string): Promise<z.infer<typeof counts>> {
  const { rows } = await planned(
    `select (select count(*)::int from site where organisation_id = :organisationId and archived_at is null) as "all",
       (select count(*)::int from alarm where organisation_id = :organisationId and state <> 'cleared') as open_alarms`,
    { organisationId },
  );
  return counts.parse(rows[0]);
}

const choices = z.object({ profileIds: z.array(z.string()), sourceKinds: z.array(z.string()) });
/** Kinds of controller and of source that any site has. */
export async function kindsThere(organisationId: string): Promise<z.infer<typeof choices>> {
  const { rows } = await db().raw(
    `select coalesce((select jsonb_agg(distinct k) from site_summary m, jsonb_array_elements_text(m.facts -> 'profileIds') k where m.organisation_id = :organisationId), '[]') as profile_ids,
       coalesce((select jsonb_agg(distinct k) from site_summary m, jsonb_array_elements_text(m.facts -> 'sourceKinds') k where m.organisation_id = :organisationId), '[]') as source_kinds`,
    { organisationId },
  );
  return choices.parse(rows[0]);
}

export type DueRound = { organisationId: string; siteId: string; takenAt: Date };
/** A worker that has not made what it took by then is taken for dead, s. */
const GIVEN_UP_S = 120;

/**
 * Takes sites whose round is due, of every organisation in turn, so that no other worker makes them meanwhile.
 *
 * @param restS a site whose round was made within so many seconds is left for later: who saves again and again is not worked for each time
 */
export async function takeDue(limit: number, restS = 0): Promise<DueRound[]> {
  const { rows } = await db().raw(
    `update round_due set taken_at = clock_timestamp() where site_id in (
       select d.site_id from round_due d join (
         select u.site_id, row_number() over (partition by u.organisation_id order by u.site_id) as turn
         from round_due u left join site_round r on r.site_id = u.site_id
         where (u.taken_at is null or u.taken_at < now() - :givenUp * interval '1 second')
           and (r.made_at is null or r.made_at <= now() - :restS * interval '1 second')
         order by turn limit :limit) t on t.site_id = d.site_id
       where d.taken_at is null or d.taken_at < now() - :givenUp * interval '1 second' for update of d skip locked)
     returning organisation_id, site_id, taken_at`,
    { givenUp: GIVEN_UP_S, limit, restS },
  );
  return rows;
}

/** Whether any round is still to be taken. */
export async function anyDue(): Promise<boolean> {
  return (await db()("round_due").whereNull("taken_at").first("site_id")) !== undefined;
}

/** What was made is no longer due, unless something has changed since it was taken. */
export async function doneDue(due: readonly DueRound[]): Promise<void> {
  await db().raw(
    `delete from round_due d using unnest(?::uuid[], ?::timestamptz[]) t(site_id, taken_at)
     where d.site_id = t.site_id and date_trunc('milliseconds', d.taken_at) = date_trunc('milliseconds', t.taken_at)`,
    [due.map((d) => d.siteId), due.map((d) => d.takenAt)],
  );
}

/** Notes that these sites' rounds are due, for what no trigger tells: another day. */
export async function noteDue(sites: readonly { id: string; organisationId: string }[]): Promise<void> {
  await db().raw(
    `insert into round_due (site_id, organisation_id) select * from unnest(?::uuid[], ?::uuid[]) on conflict do nothing`,
    [sites.map((s) => s.id), sites.map((s) => s.organisationId)],
  );
}

/** Gateways that are not heard say something else by the minute: how long they are silent. */
export async function noteSilentDue(): Promise<void> {
  await db().raw(
    `insert into round_due (site_id, organisation_id)
     select g.site_id, g.organisation_id from field_gateway g where g.state <> 'live' or g.heard_at < now() - interval '5 minutes' on conflict do nothing`,
  );
}

type Made = { siteId: string; urgency: number; reasons: Reason[]; nights: string[] };
export async function keepRounds(organisationId: string, made: readonly Made[]): Promise<void> {
  if (made.length === 0) return;
  await db()("site_round")
    .insert(
      made.map((m) => ({
        organisationId,
        siteId: m.siteId,
        urgency: m.urgency,
        reasons: JSON.stringify(m.reasons),
        nights: JSON.stringify(m.nights),
        madeAt: db().fn.now(),
      })),
    )
    .onConflict("site_id")
    .merge();
}

/** What was worked out last of these sites. */
export async function summariesOf(
  siteIds: string[],
): Promise<{ siteId: string; summary: NightSummary; facts: SiteFacts }[]> {
  const { rows } = await db().raw(`select site_id, summary, facts from site_summary where site_id = any(?)`, [siteIds]);
  return rows;
}
