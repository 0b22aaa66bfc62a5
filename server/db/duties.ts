import { z } from "zod";
import type { DutyNoted, VisitSetup } from "../../contracts/visits.ts";
import { checklistsSchema, USUAL_CHECKLISTS } from "../../core/visits/checklists.ts";
import { DUTIES, dutyRules, USUAL_RULES } from "../../core/visits/duties.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };

const setupRow = z.object({ checklists: checklistsSchema, duties: dutyRules, version: z.number() });
/** What the organisation looks at on visits and asks for by the calendar; the usual where it has set nothing. */
export async function visitSetupOf(organisationId: string): Promise<VisitSetup> {
  const row: unknown = await db()("visit_setup").where({ organisationId }).first();
  return row ? setupRow.parse(row) : { checklists: [...USUAL_CHECKLISTS], duties: USUAL_RULES, version: 0 };
}

/** @returns false where another version stands by now */
export async function keepVisitSetup(organisationId: string, setup: VisitSetup, setBy: string): Promise<boolean> {
  const row = {
    checklists: JSON.stringify(setup.checklists),
    duties: JSON.stringify(setup.duties),
    version: setup.version + 1,
    setBy,
    setAt: db().fn.now(),
  };
  const done =
    setup.version === 0
      ? await db()("visit_setup")
          .insert({ organisationId, ...row })
          .onConflict("organisation_id")
          .ignore()
          .returning("version")
      : await db()("visit_setup").where({ organisationId, version: setup.version }).update(row).returning("version");
  return done.length === 1;
}

const doneRow = z.object({
  siteId: z.string(),
  id: z.string(),
  duty: z.enum(DUTIES),
  subjectId: z.string().nullable(),
  on: z.string(),
  words: z.string(),
  by: z.string(),
});
export type DoneRow = z.infer<typeof doneRow>;
const COLUMNS = "site_id, id, duty, subject_id, on_day::text as on, words, by_name as by";

/** What was done anew at a site, newest first. */
export async function dutiesDone(siteId: string, limit: number): Promise<DoneRow[]> {
  const { rows } = await db().raw(
    `select ${COLUMNS} from duty_done where site_id = ? order by on_day desc, made_at desc limit ?`,
    [siteId, limit],
  );
  return z.array(doneRow).parse(rows);
}

const sinceRow = z.object({ siteId: z.string(), since: z.string() });
/** What was done last of each kind and thing at these sites, and when the sites came here: a date. */
export async function dutiesOf(siteIds: string[]): Promise<{ done: DoneRow[]; since: Map<string, string> }> {
  const [done, since] = await Promise.all([
    db().raw(
      `select distinct on (site_id, duty, subject_id) ${COLUMNS} from duty_done where site_id = any(?) order by site_id, duty, subject_id, on_day desc`,
      [siteIds],
    ),
    db().raw("select id as site_id, created_at::date::text as since from site where id = any(?)", [siteIds]),
  ]);
  return {
    done: z.array(doneRow).parse(done.rows),
    since: new Map(
      z
        .array(sinceRow)
        .parse(since.rows)
        .map((r) => [r.siteId, r.since]),
    ),
  };
}

/** @returns false where it is there already */
export async function insertDutyDone(
  of: Of,
  { on, by, ...noted }: DutyNoted & { by: string; visitId?: string },
): Promise<boolean> {
  const done: unknown[] = await db()("duty_done")
    .insert({ ...of, ...noted, onDay: on, byName: by })
    .onConflict("id")
    .ignore()
    .returning("id");
  return done.length > 0;
}

export async function dropDutyDone(siteId: string, id: string): Promise<boolean> {
  return (await db()("duty_done").where({ siteId, id }).delete()) === 1;
}
