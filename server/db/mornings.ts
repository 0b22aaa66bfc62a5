import { z } from "zod";
import type { Answer } from "../../contracts/mornings.ts";
import type { Finding } from "../../core/reckon/findings.ts";
import type { FindingWords } from "../../core/reckon/finding-words.ts";
import type { KeptNight, ToldMorning } from "../../core/reckon/kept-nights.ts";
import type { Reckoning } from "../../core/reckon/reckon.ts";
import type { AnsweredFinding } from "../../core/reckon/still-open.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };
type Source = "gateway" | "log";
const isoDate = (column: string) => db().raw("to_char(??, 'YYYY-MM-DD') as night", [column]);

/** Keeps what was read in a night; read again, the newer stands. */
export async function keepNight(of: Of, { night, keys, stretches }: KeptNight, source: Source, whole: boolean) {
  await db()("site_night")
    .insert({ ...of, night, source, keys, stretches: JSON.stringify(stretches), whole, readAt: new Date() })
    .onConflict(["site_id", "night"])
    .merge();
}

const nightRow = z.object({ night: z.string(), keys: z.array(z.string()), stretches: z.unknown() });

/** The nights of a site up to one, so many at the most, the newest of them; rising. */
export async function nightsKept(siteId: string, upTo: string, most: number): Promise<KeptNight[]> {
  const rows: unknown[] = await db()("site_night")
    .where({ siteId })
    .where("night", "<=", upTo)
    .orderBy("night", "desc")
    .limit(most)
    .select(isoDate("night"), "keys", "stretches");
  return (z.array(nightRow).parse(rows) as KeptNight[]).reverse();
}

/** Nights after one that were read, too. */
export async function nightsAfter(siteId: string, night: string): Promise<string[]> {
  const rows: { night: string }[] = await db()("site_night")
    .where({ siteId })
    .where("night", ">", night)
    .orderBy("night")
    .select(isoDate("night"));
  return rows.map((r) => r.night);
}

export type NightFacts = { night: string; whole: boolean; source: Source };
/** The newest night that was read. */
export async function newestNight(siteId: string): Promise<NightFacts | null> {
  const row: NightFacts | undefined = await db()("site_night")
    .where({ siteId })
    .orderBy("night", "desc")
    .first(isoDate("night"), "whole", "source");
  return row ?? null;
}

export async function keepMorning(of: Of, version: number, { night, reckoning, words }: ToldMorning): Promise<void> {
  await db()("site_morning")
    .insert({
      ...of,
      night,
      version,
      reckoning: JSON.stringify(reckoning),
      words: JSON.stringify(words),
      said: JSON.stringify(
        reckoning.found.map(
          ({ id, certain, until, changeLpm }, i): Said => ({
            id,
            certain,
            until,
            changeLpm,
            head: words[i]?.head ?? "",
          }),
        ),
      ),
      workedAt: new Date(),
    })
    .onConflict(["site_id", "night"])
    .merge();
}

export type KeptMorning = {
  night: string;
  version: number;
  reckoning: Reckoning;
  words: FindingWords[];
  workedAt: Date;
};
const mornings = (siteId: string) =>
  db()("site_morning")
    .where({ siteId })
    .orderBy("night", "desc")
    .select<KeptMorning[]>(isoDate("night"), "version", "reckoning", "words", "worked_at");

/** The newest morning, or the newest before a night. */
export async function newestMorning(siteId: string, before?: string): Promise<KeptMorning | null> {
  const rows = await mornings(siteId)
    .modify((q) => before && q.where("night", "<", before))
    .limit(1);
  return rows[0] ?? null;
}

/** A station's estimate on each of the newest mornings; rising. */
export async function stationOnMornings(
  siteId: string,
  stationId: string,
  most: number,
): Promise<{ night: string; nowLpm: number; sdLpm: number }[]> {
  const { rows } = await db().raw(
    `select to_char(m.night, 'YYYY-MM-DD') as night, (s ->> 'nowLpm')::float8 as now_lpm, (s ->> 'sdLpm')::float8 as sd_lpm
     from (select night, reckoning from site_morning where site_id = ? order by night desc limit ?) m,
       jsonb_array_elements(m.reckoning -> 'stations') s
     where s ->> 'stationId' = ? and s ->> 'nowLpm' is not null order by m.night`,
    [siteId, most, stationId],
  );
  return rows;
}

const answerRow = z.object({
  findingId: z.string(),
  answer: z.custom<Answer>(),
  words: z.string(),
  changeLpm: z.number(),
  forName: z.string().nullable(),
  byName: z.string(),
  answeredAt: z.date(),
});
export type AnswerRow = z.infer<typeof answerRow>;

export async function answersOf(siteId: string): Promise<AnswerRow[]> {
  const rows: unknown[] = await db()("finding_answer as a")
    .join("app_user as u", "u.id", "a.answered_by")
    .leftJoin("app_user as f", "f.id", "a.for_user")
    .where("a.site_id", siteId)
    .select("a.*", "u.name as by_name", "f.name as for_name");
  return z.array(answerRow).parse(rows);
}

export async function keepAnswer(
  of: Of,
  answer: {
    findingId: string;
    answer: Answer;
    words: string;
    forUser: string | null;
    changeLpm: number;
    answeredBy: string;
  },
): Promise<void> {
  await db()("finding_answer")
    .insert({ ...of, ...answer, answeredAt: new Date() })
    .onConflict(["site_id", "finding_id"])
    .merge();
}

/** A line of what a morning says, for all sites at once. */
export type Said = Pick<Finding, "id" | "certain" | "until" | "changeLpm"> & { head: string };
export type SiteSays = { siteId: string; said: Said[]; answers: AnsweredFinding[] };
/** What the newest morning of these sites says, where one was told, and what was answered to it. */
export async function sitesSay(organisationId: string, siteIds: string[]): Promise<SiteSays[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, m.said,
       (select coalesce(json_agg(json_build_object('findingId', a.finding_id, 'changeLpm', a.change_lpm)), '[]')
         from finding_answer a where a.site_id = s.id) as answers
     from site s cross join lateral (select said from site_morning k where k.site_id = s.id order by k.night desc limit 1) m
     where s.organisation_id = ? and s.id = any(?)`,
    [organisationId, siteIds],
  );
  return rows;
}

export type ToReckon = Of & { timeZone: string; night: string | null; whole: boolean };
/** Sites with a gateway, each with its zone, and how far their nights were looked at. */
export async function sitesToReckon(): Promise<ToReckon[]> {
  const { rows } = await db().raw(
    `select g.site_id, g.organisation_id, m.facts ->> 'timeZone' as time_zone,
       to_char(g.reckoned_night, 'YYYY-MM-DD') as night, g.reckoned_whole as whole
     from field_gateway g join site_summary m on m.site_id = g.site_id
     where g.heard_at is not null`,
  );
  return rows;
}

/** Takes a night of a site as looked at; false where another was quicker. */
export async function markReckoned(siteId: string, night: string, whole: boolean): Promise<boolean> {
  return (
    (await db()("field_gateway")
      .where({ siteId })
      .where((q) =>
        q
          .whereNull("reckoned_night")
          .orWhere("reckoned_night", "<", night)
          .orWhere((n) => n.where({ reckonedNight: night, reckonedWhole: false }).whereRaw("?::boolean", [whole])),
      )
      .update({ reckonedNight: night, reckonedWhole: whole })) === 1
  );
}

const EVERY_S = 5;
type ReadAt = { at: number; stream: string; seq: number };
/**
 * What was read of a site between two instants, a row in so many seconds (five), oldest first; flows by sensor, L/min. Each table by itself, in its own order: a join of two months whose
 * sizes nobody knows yet may take minutes.
 */
export async function readingsOfNight(
  siteId: string,
  from: Date,
  to: Date,
  everyS = EVERY_S,
): Promise<{ at: number; open: string[]; flow: Record<string, number> }[]> {
  const within = async <T>(table: string, columns: string, also = ""): Promise<(ReadAt & T)[]> => {
    const { rows } = await db().raw(
      `select extract(epoch from at)::integer as at, stream, seq, ${columns} from ${table}
       where site_id = ? and at >= ? and at < ? and extract(epoch from at)::bigint % ? = 0 ${also} order by at, stream, seq`,
      [siteId, from, to, everyS],
    );
    return rows;
  };
  const instants = await within<{ open: string[] }>("field_instant", "open");
  const readings = await within<{ sensorId: string; value: number }>(
    "reading",
    "sensor_id, value",
    "and quantity = 'flow'",
  );
  const key = (r: ReadAt): string => `${r.at} ${r.stream} ${r.seq}`;
  const flows = new Map<string, Record<string, number>>();
  for (const r of readings) {
    const flow = flows.get(key(r)) ?? {};
    flow[r.sensorId] = r.value;
    flows.set(key(r), flow);
  }
  return instants.map((i) => ({ at: i.at, open: i.open, flow: flows.get(key(i)) ?? {} }));
}
