import { z } from "zod";
import { anywhere } from "./anywhere.ts";
import { db } from "./connection.ts";

const patterns = (words: readonly string[]): { longest: string; all: string[] } => ({
  longest: anywhere(words.reduce((a, b) => (b.length > a.length ? b : a))),
  all: words.map(anywhere),
});

const element = z.object({
  siteId: z.string(),
  siteName: z.string(),
  elementId: z.string(),
  kind: z.enum(["source", "poc", "mainline", "controller", "station", "program", "device"]),
  name: z.string(),
  number: z.number().nullable(),
  serial: z.string().nullable(),
});
export type FoundElement = z.infer<typeof element>;

/** Pieces of any site whose name, number and serial hold all the words; stations first. */
export async function elementsCalled(words: readonly string[], most: number): Promise<FoundElement[]> {
  const { longest, all } = patterns(words);
  const { rows } = await db().raw(
    `select f.*, s.name as site_name from elements_called(?, ?, ?) f join site s on s.id = f.site_id
     where s.archived_at is null order by f.kind <> 'station', length(f.name), f.name, s.name`,
    [longest, all, most],
  );
  return z.array(element).parse(rows);
}

/** Alarms whose words hold all of these; open ones first. */
export async function alarmsSaying(
  words: readonly string[],
  most: number,
): Promise<{ id: string; siteId: string; siteName: string; message: string; state: string }[]> {
  const { longest, all } = patterns(words.map((w) => w.toLowerCase()));
  const { rows } = await db().raw(
    `select f.id, f.site_id, f.message, f.state, s.name as site_name from alarms_saying(?, ?, ?) f join site s on s.id = f.site_id
     order by f.state = 'cleared', f.at desc`,
    [longest, all, most],
  );
  return rows;
}

/** Sites whose name, client, area and crew hold all the words. */
export async function sitesCalled(
  organisationId: string,
  words: readonly string[],
  most: number,
): Promise<{ id: string; name: string; groups: string; archived: boolean }[]> {
  const { rows } = await db().raw(
    `select s.id, s.name, concat_ws(' · ', c.name, a.name, w.name) as groups, s.archived_at is not null as archived from site s
       left join site_group c on c.id = s.client_id left join site_group a on a.id = s.area_id left join site_group w on w.id = s.crew_id
     where s.organisation_id = ? and concat_ws(' ', s.name, c.name, a.name, w.name) ilike all(?)
     order by s.archived_at is not null, lower(s.name) limit ?`,
    [organisationId, patterns(words).all, most],
  );
  return rows;
}

/** People of the organisation by name or address. */
export async function peopleCalled(
  organisationId: string,
  words: readonly string[],
  most: number,
): Promise<{ id: string; name: string; email: string; role: string }[]> {
  const { rows } = await db().raw(
    `select id, name, email, role from app_user where organisation_id = ? and left_at is null and (name || ' ' || email) ilike all(?)
     order by lower(name) limit ?`,
    [organisationId, patterns(words).all, most],
  );
  return rows;
}
