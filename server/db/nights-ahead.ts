import { z } from "zod";
import type { NightShort } from "../../core/visits/calendar.ts";
import { db } from "./connection.ts";

const oldRow = z.object({ siteId: z.string(), organisationId: z.string(), version: z.number(), date: z.string() });
export type OldAhead = z.infer<typeof oldRow>;

/** Sites whose nights ahead are of another day or revision than their night is, of every organisation in turn. */
export async function oldAhead(limit: number): Promise<OldAhead[]> {
  const { rows } = await db().raw(
    `select site_id, organisation_id, version, date::text as date from (
       select m.site_id, m.organisation_id, m.version, m.date, row_number() over (partition by m.organisation_id order by n.date nulls first, m.site_id) as turn
       from site_summary m join site s on s.id = m.site_id and s.archived_at is null left join night_ahead n on n.site_id = m.site_id
       where n.site_id is null or n.version <> m.version or n.date <> m.date) x order by turn limit ?`,
    [limit],
  );
  return z.array(oldRow).parse(rows);
}

export async function keepAhead({ version, date, ...of }: OldAhead, nights: readonly NightShort[]): Promise<void> {
  await db()("night_ahead")
    .insert({ ...of, version, date, nights: JSON.stringify(nights) })
    .onConflict("site_id")
    .merge();
}
